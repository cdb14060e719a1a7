import { useState } from "react";
import { Link, useParams } from "react-router";
import { useOfProject } from "../api/projects";
import { amountOf, bestOf, lookOf, useRun, type Look, type RunDetail } from "../api/runs";
import { Desk } from "../shared/proof/Desk";
import { Sheet } from "../shared/proof/Sheet";
import { walls } from "../shared/tones";
import { useAddress } from "../shared/useAddress";
import { useKeys } from "../shared/useKeys";
import { side as sideOf, upright } from "../shared/viewer/wipe";
import { WipeHandle } from "../shared/viewer/WipeHandle";
import { Where } from "../shared/Where";
import { CompareBar } from "./CompareBar";
import { LookPanel } from "./LookPanel";
import { passGroups } from "./passGroups";
import { PassStrip } from "./PassStrip";
import { ReadingLine } from "./ReadingLine";
import { useCompared, type Mode } from "./useCompared";
import { useReading } from "./useReading";
import bits from "../shared/bits.module.css";
import styles from "./ProofPage.module.css";

export function ProofPage() {
  const id = Number(useParams()["id"]);
  const run = useRun(id);
  if (run.error) return <div className={bits.empty}>{run.error.message}</div>;
  if (!run.data) return <div className={bits.empty}>Opening the proof</div>;
  return <Proof key={id} run={run.data} />;
}

function Proof({ run }: { run: RunDetail }) {
  useOfProject(run.run.project);
  const [query, put] = useAddress();
  const pass = run.passes.find((p) => p.key === (query.get("pass") ?? bestOf(run))) ?? run.passes[0]!;
  const mode = (query.get("mode") as Mode | null) ?? "one";
  const [amount, setAmount] = useState(amountOf(run));
  const [look, setLook] = useState<Look>(lookOf(run));
  const [wall, setWall] = useState<keyof typeof walls>("mid");
  const [scale, setScale] = useState(1);
  const side = scale > 0.9 ? 0 : 1400; // of the whole picture, or one pixel for another
  const [command, setCommand] = useState({ kind: "fit" as "fit" | "pixels", n: 0 });
  const [wipe, setWipe] = useState(upright);
  const aspect = run.run.width / run.run.height;
  const [flipped, setFlipped] = useState(false);
  const reading = useReading(run.run.id, pass.key, look, amount);
  const compared = useCompared(run, pass, { mode, with: query.get("with") });
  const { other, otherPass } = compared;
  // Finished for clay, or clay for finished: within the run, or by another of its view.
  const swap = () => {
    if (compared.twin) return put({ pass: compared.twin });
    const mate = compared.mates.find((r) => r.surface !== run.run.surface);
    if (!mate) return;
    put({ mode: "flip", with: String(mate.id) });
    setFlipped(mode !== "flip" || other?.run.id !== mate.id || !flipped);
  };
  const flip = () => setFlipped((v) => !v);
  const zoom = (kind: "fit" | "pixels") => setCommand((c) => ({ kind, n: c.n + 1 }));
  const step = (by: number) => {
    const n = run.passes.length;
    put({ pass: run.passes[(run.passes.indexOf(pass) + by + n) % n]!.key });
  };
  useKeys([
    { key: "c", says: "Own finishes or clay", act: swap },
    { key: "f", says: "Flip between the two compared", act: flip },
    { key: "w", says: "Wipe between the two compared", act: () => put({ mode: "wipe" }) },
    { key: "0", says: "The whole picture", act: () => zoom("fit") },
    { key: "1", says: "Single pixels", act: () => zoom("pixels") },
    { key: "arrowleft", says: "Pass before", act: () => step(-1) },
    { key: "arrowright", says: "Next pass", act: () => step(1) },
  ]);

  return (
    <div className={styles.page}>
      <Where title={`${run.run.jobName} ${run.run.number}`}>
        <Link to={`/jobs/${run.run.job}`} className="faint">
          {run.run.jobName}
        </Link>
        <span className="faint">/</span>
        <h1>Proof {run.run.number}</h1>
        <span className={bits.stamp}>{pass.title}</span>
      </Where>
      <section className={styles.middle} aria-label="Picture">
        <CompareBar
          run={run}
          pass={pass}
          group={passGroups(run).find((g) => g.passes.includes(pass))!}
          compared={compared}
          mode={mode}
          put={put}
          swap={swap}
          flip={flip}
          wall={wall}
          onWall={setWall}
          scale={scale}
          onScale={() => zoom(scale === 1 ? "fit" : "pixels")}
        />
        <Desk
          width={run.run.width}
          height={run.run.height}
          wall={walls[wall]}
          onPoint={reading.point}
          onZoom={setScale}
          command={command}
        >
          <Sheet run={run} pass={pass.key} seen={{ look, amount }} side={side} />
          {other && otherPass && mode !== "one" && (
            <div
              className={styles.over}
              data-testid="over"
              style={
                mode === "wipe"
                  ? { clipPath: sideOf(wipe, aspect, "after") }
                  : { visibility: flipped ? "visible" : "hidden" }
              }
            >
              <Sheet run={other} pass={otherPass.key} seen={{ look, amount }} side={side} />
            </div>
          )}
          {mode === "wipe" && other && <WipeHandle wipe={wipe} set={setWipe} aspect={aspect} />}
        </Desk>
        <div className={`${styles.reading} mono`} data-testid="reading">
          {reading.value ? (
            <ReadingLine r={reading.value} data={pass.data} />
          ) : (
            <span className="faint">Point at the picture for its values.</span>
          )}
        </div>
        <PassStrip run={run} chosen={pass} choose={(key) => put({ pass: key })} />
      </section>
      <LookPanel run={run} pass={pass} look={look} onLook={setLook} amount={amount} onAmount={setAmount} />
    </div>
  );
}
