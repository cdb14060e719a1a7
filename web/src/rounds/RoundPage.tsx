import { Button, Segmented } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { useMay, useOfProject } from "../api/projects";
import { proofPicture, useBoard, useChanged, useRound, type ProofUp, type Round } from "../api/rounds";
import { useAddress } from "../shared/useAddress";
import { useKeys } from "../shared/useKeys";
import { Where } from "../shared/Where";
import { Answering } from "./Answering";
import { Changed } from "./Changed";
import { OverPicture, RemarkTools } from "./Marking";
import type { Mode } from "./CompareBar";
import { Pictures } from "./Pictures";
import { Remarks } from "./Remarks";
import { RoundFacts } from "./RoundFacts";
import { Stamp } from "./Stamp";
import { useCompared } from "./useCompared";
import { useRemarking } from "./useRemarking";
import { kindWords } from "./words";
import bits from "../shared/bits.module.css";
import styles from "./RoundPage.module.css";

/** RoundPage is what is up in a round, what it was before, and what people answer. */
export function RoundPage() {
  const id = Number(useParams()["id"]);
  const round = useRound(id);
  if (round.error) return <div className={bits.empty}>{round.error.message}</div>;
  if (!round.data) return <div className={bits.empty}>Opening the round</div>;
  return <Shown key={id} round={round.data} />;
}

function Shown({ round }: { round: Round }) {
  useOfProject(round.project);
  const [query, put] = useAddress();
  const mayRemark = useMay(round.project, "answer in rounds");
  const newest = round.proofs.filter((p) => p.newest);
  const first = newest.find((p) => p.verdict === "waiting") ?? newest[0];
  // What was shown first stays in front, whatever is put up meanwhile: nobody answers to what they have not seen.
  const [pinned, pin] = useState(first?.id);
  if (pinned === undefined && first) pin(first.id);
  const of = (id: number | undefined) => round.proofs.find((p) => p.id === id);
  const proof = of(Number(query.get("proof"))) ?? of(pinned) ?? first;
  const changed = useChanged(proof?.id).data;
  const remarking = useRemarking(proof, mayRemark);
  const before = changed?.before;
  const compared = useCompared(
    round,
    proof,
    before ? { key: `${before.id}`, proof: before, pass: null, words: `Round ${changed.round}, before` } : null,
  );
  const wide = query.get("wide") === "1";
  const step = (by: number) => {
    if (!proof) return;
    const all = round.proofs;
    put({ proof: String(all[(all.indexOf(proof) + by + all.length) % all.length]!.id) });
  };
  useKeys([
    { key: "arrowleft", says: "Proof before", act: () => step(-1) },
    { key: "arrowright", says: "Next proof", act: () => step(1) },
    { key: "b", says: "Show or hide the panel", act: () => put({ wide: wide ? null : "1" }) },
  ]);
  const side = query.get("side") === "remarks" ? "remarks" : "round";
  return (
    <div className={styles.page} data-wide={wide}>
      <Where title={`Round ${round.number}`}>
        <Link to="/board" className="faint">
          Board
        </Link>
        <span className="faint">/</span>
        <h1>
          Round {round.number}, {round.title}
        </h1>
      </Where>
      <Tabs round={round} />
      <section className={styles.middle} aria-label="Proofs">
        {proof ? (
          <>
            <Pictures
              key={proof.id}
              now={{
                key: "now",
                proof,
                pass: null,
                words: proof.newest ? `Round ${round.number}, now` : `Round ${round.number}, superseded`,
              }}
              compared={compared}
              before={!!before}
              mode={(query.get("mode") as Mode | null) ?? "beside"}
              setMode={(m) => put({ mode: m === "beside" ? null : m })}
              over={<OverPicture proof={proof} remarking={remarking} />}
              tools={
                <>
                  {mayRemark && <RemarkTools remarking={remarking} />}
                  <Button size="small" onClick={() => put({ wide: wide ? null : "1" })}>
                    {wide ? "Show the panel" : "Hide the panel"}
                  </Button>
                </>
              }
            />
            <Strip proofs={round.proofs} chosen={proof} choose={(p) => put({ proof: String(p.id), remark: null })} />
          </>
        ) : (
          <div className={bits.empty}>
            {round.blocked
              ? `Round ${round.number} waits for round ${round.number - 1} to be approved.`
              : "Nothing is up yet. Open the proof of a run that is done, and put it up in this round."}
          </div>
        )}
      </section>
      <section className={`${bits.side} ${styles.side}`} aria-label="About this round">
        {proof && (
          <Segmented
            block
            size="small"
            aria-label="Beside the picture"
            value={side}
            onChange={(v) => put({ side: v === "round" ? null : v })}
            options={[
              { value: "round", label: "Round" },
              { value: "remarks", label: remarking.open > 0 ? `Remarks, ${remarking.open} open` : "Remarks" },
            ]}
          />
        )}
        {proof && side === "remarks" ? (
          <Remarks proof={proof} remarking={remarking} may={mayRemark} />
        ) : (
          <>
            <RoundFacts round={round} />
            {proof && changed && <Changed proof={proof} changed={changed} />}
          </>
        )}
        {proof && <Answering round={round} proof={proof} waiting={newest.filter((p) => p.verdict === "waiting")} />}
      </section>
    </div>
  );
}

/** Tabs are all rounds of the project, in their order. */
function Tabs({ round }: { round: Round }) {
  const rounds = useBoard(round.project).data?.rounds ?? [round];
  return (
    <nav className={styles.tabs} aria-label="Rounds">
      {rounds.map((r) => (
        <Link key={r.id} to={`/rounds/${r.id}`} aria-current={r.id === round.id ? "page" : undefined}>
          <span className="faint" title={r.title}>
            {r.number} {kindWords[r.kind]}
            {r.title !== kindWords[r.kind] && `, ${r.title}`}
          </span>
          <Stamp verdict={r.verdict} />
        </Link>
      ))}
    </nav>
  );
}

function Strip({ proofs, chosen, choose }: { proofs: ProofUp[]; chosen: ProofUp; choose: (p: ProofUp) => void }) {
  return (
    <div className={styles.strip}>
      {proofs.map((p) => (
        <button
          key={p.id}
          className={`${bits.kept} ${p === chosen ? bits.chosen : ""}`}
          aria-pressed={p === chosen}
          onClick={() => choose(p)}
        >
          <img alt={`Proof ${p.number}, ${p.view}`} src={proofPicture(p, 320)} />
          <span>{p.view}</span>
          <span className="faint">{p.newest ? <Stamp verdict={p.verdict} /> : "superseded"}</span>
        </button>
      ))}
    </div>
  );
}
