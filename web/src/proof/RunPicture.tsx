import { scenePicture } from "../scenes/api";
import { stateWords } from "../shared/words";
import { bestOf, type RunDetail } from "./api";
import { Desk } from "./Desk";
import { usePicture } from "./usePicture";
import styles from "./RunPicture.module.css";

/**
 * RunPicture is a run's beauty as its ticket looks at it, refining while it goes; before, the shape of its scene.
 * note is laid over it.
 */
export function RunPicture({ run, note }: { run: RunDetail; note?: string }) {
  const url = usePicture(run, bestOf(run), 1400);
  return (
    <Desk width={run.run.width} height={run.run.height}>
      {url ? (
        <img src={url} alt={run.slug} style={placed(run)} draggable={false} data-testid="picture" />
      ) : (
        <NotYet run={run} />
      )}
      {note && <div className={styles.note}>{note}</div>}
    </Desk>
  );
}

/** NotYet is the shape of a run's scene in the run's frame, until the run has samples. */
export function NotYet({ run }: { run: RunDetail }) {
  if (run.run.samples > 0) return null;
  return (
    <>
      <img className={styles.shape} src={scenePicture(run.run.scene, run.run.view)} alt="" draggable={false} />
      <div className={styles.note}>
        The scene's shape; run {run.run.number} is {stateWords[run.run.state]} and has no samples yet
      </div>
    </>
  );
}

/** placed puts the computed part where it lies in the frame. */
export function placed(run: RunDetail): React.CSSProperties {
  const [x0, y0, x1, y1] = run.window as [number, number, number, number];
  const { width, height } = run.run;
  const p = (v: number, of: number) => `${(v / of) * 100}%`;
  return { left: p(x0, width), top: p(y0, height), width: p(x1 - x0, width), height: p(y1 - y0, height) };
}
