import { Button } from "antd";
import type { Run } from "../api/runs";
import { Thumb } from "../shared/proof/Thumb";
import { stateWords, surfaceWords } from "../shared/words";
import bits from "../shared/bits.module.css";
import styles from "./JobPage.module.css";

type Props = {
  runs: Run[];
  scene: number;
  /** The run that is looked at, and whether its clay is; none while the live picture is. */
  shown: { run: number; clay: boolean } | null;
  choose: (run: Run, clay: boolean) => void;
  /** Fetches earlier runs, where there are any. */
  earlier: (() => void) | null;
  /** The first page has come. */
  loaded: boolean;
};

/** ProofStrip is the runs of a job, newest last: one picture each, or finished and in clay. */
export function ProofStrip({ runs, scene, shown, choose, earlier, loaded }: Props) {
  return (
    <section className={styles.strip} aria-label="Kept proofs of this job">
      <h2 className={styles.stripTitle}>Proofs</h2>
      {earlier && (
        <Button size="small" type="text" onClick={earlier}>
          Earlier ones
        </Button>
      )}
      {picturesOf(runs).map(({ run: r, clay }) => (
        <button
          key={`${r.id} ${clay}`}
          className={
            shown?.run === r.id && (r.surface !== "both" || clay === shown.clay)
              ? `${bits.kept} ${bits.chosen}`
              : bits.kept
          }
          onClick={() => choose(r, clay)}
        >
          <Thumb run={r} pass={clay && r.surface === "both" ? "clay" : "beauty"} scene={scene} view={r.view} />
          <span className="mono">
            {r.number} · {surfaceWords[clay ? "clay" : "own"]}
            <br />
            <span className="faint">{r.noise == null ? stateWords[r.state] : `${r.noise.toFixed(1)} %`}</span>
          </span>
        </button>
      ))}
      {loaded && runs.length === 0 && <div className="faint">Runs are kept here, newest last.</div>}
    </section>
  );
}

/** picturesOf are the pictures of runs, newest last. */
const picturesOf = (runs: Run[]) =>
  [...runs].reverse().flatMap((run) =>
    run.surface === "both"
      ? [
          { run, clay: false },
          { run, clay: true },
        ]
      : [{ run, clay: run.surface === "clay" }],
  );
