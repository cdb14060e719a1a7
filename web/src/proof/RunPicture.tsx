import { bestOf, type RunDetail } from "./api";
import { Desk } from "./Desk";
import { Sheet } from "./Sheet";
import styles from "./RunPicture.module.css";

/** RunPicture is a run's beauty as its ticket looks at it, refining while it goes. note is laid over it. */
export function RunPicture({ run, note }: { run: RunDetail; note?: string }) {
  return (
    <Desk width={run.run.width} height={run.run.height}>
      <Sheet run={run} pass={bestOf(run)} side={1400} id="picture" />
      {note && <div className={styles.note}>{note}</div>}
    </Desk>
  );
}
