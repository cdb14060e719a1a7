import type { Schemas } from "../api/http";
import { useDifference, useRemarks, type ProofUp } from "../api/rounds";
import { SettleRemark } from "../shared/remarks/SettleRemark";
import styles from "./RoundPage.module.css";

/** Changed says what was done since the same view was put up before. */
export function Changed({ proof, changed }: { proof: ProofUp; changed: Schemas["Compared"] }) {
  if (!changed.before)
    return (
      <>
        <h2>Changed</h2>
        <p className="faint">The first proof of {proof.view}.</p>
      </>
    );
  const list = (words: string[]) => (
    <ul className={styles.changed}>
      {words.map((w) => (
        <li key={w}>{w}</li>
      ))}
    </ul>
  );
  return (
    <>
      <PictureChanged proof={proof} round={changed.round} />
      <h2>Parts changed since round {changed.round}</h2>
      {!changed.known && <p className="faint">Not known: an earlier version put that proof up.</p>}
      {changed.known && changed.parts.length === 0 && <p className="faint">No part was changed.</p>}
      {list(changed.parts)}
      <h2>Settings changed since round {changed.round}</h2>
      {changed.words.length === 0 && <p className="faint">No setting was changed.</p>}
      {list(changed.words)}
      <AskedFor proof={proof} topics={changed.topics} />
    </>
  );
}

/** AskedFor are open remarks about settings that were changed. */
function AskedFor({ proof, topics }: { proof: ProofUp; topics: string[] }) {
  const all = useRemarks(proof.id).data ?? [];
  return all
    .filter((r) => r.state === "open" && topics.includes(r.topic))
    .map((r) => (
      <SettleRemark
        key={r.id}
        id={r.id}
        number={r.number}
        round={proof.round}
        proof={proof.id}
        may={r.settles}
        topic={r.topic}
        words={r.lines[0]!.words}
      />
    ));
}

/** PictureChanged says how much of the picture is not as it was, by more than its noise explains. */
function PictureChanged({ proof, round }: { proof: ProofUp; round: number }) {
  const d = useDifference(proof.id).data;
  if (!d) return null;
  const share = (v: number) => (v < 0.001 ? "under 0.1 %" : `${(v * 100).toFixed(v < 0.1 ? 1 : 0)} %`);
  const noise = d.measured ? "more than its noise explains" : "what is seen; the noise of one of them is not known";
  return (
    <>
      <h2>Picture changed since round {round}</h2>
      <p className="faint">{d.why || (d.share === 0 ? "Nothing changed." : `${share(d.share)} of it, by ${noise}.`)}</p>
      {d.parts.length > 0 && (
        <ul className={styles.changed}>
          {d.parts.slice(0, 6).map((p) => (
            <li key={p.part}>
              {p.part} <span className="faint">{share(p.share)}</span>
            </li>
          ))}
          {d.parts.length > 6 && <li className="faint">{d.parts.length - 6} more parts</li>}
        </ul>
      )}
    </>
  );
}
