import { scenePicture } from "../scenes/api";
import { stateWords } from "../shared/words";
import { bestOf, type RunDetail } from "./api";
import { Desk } from "./Desk";
import { usePicture, type Shown } from "./usePicture";
import styles from "./RunPicture.module.css";

/**
 * RunPicture is a run's beauty as its ticket looks at it, refining while it goes; before, the shape of its scene.
 * note is laid over it.
 */
export function RunPicture({ run, note }: { run: RunDetail; note?: string }) {
  const pass = bestOf(run);
  const { shown, lost } = usePicture(run, pass, 1400);
  return (
    <Desk width={run.run.width} height={run.run.height}>
      {shown && <img src={shown.url} alt={run.slug} style={placed(run)} draggable={false} data-testid="picture" />}
      <NotYet run={run} pass={pass} shown={shown} lost={lost} />
      {note && <div className={styles.note}>{note}</div>}
    </Desk>
  );
}

type NotYetProps = { run: RunDetail; pass: string; shown: Shown | null; lost: boolean };

/** NotYet stands in a run's frame while its picture is not there: why, and until there are samples the scene's shape. */
export function NotYet({ run, pass, shown, lost }: NotYetProps) {
  if (run.run.samples > 0) {
    if (!lost && shown?.run === run.run.id && shown.pass === pass) return null;
    return <div className={`${styles.note} ${styles.late}`}>{lost ? lostWords : waitWords(run, pass)}</div>;
  }
  return (
    <>
      <img className={styles.shape} src={scenePicture(run.run.scene, run.run.view)} alt="" draggable={false} />
      <div className={styles.note}>
        The scene's shape; run {run.run.number} is {stateWords[run.run.state]} and has no samples yet
      </div>
    </>
  );
}

const lostWords = "The picture could not be had; load the page again";

/** waitWords tells what a picture of a pass waits for. */
const waitWords = (run: RunDetail, pass: string) =>
  run.passes.find((p) => p.key === pass)?.denoised
    ? "Noise is being taken out of the picture"
    : "The picture is on its way";

/** placed puts the computed part where it lies in the frame. */
export function placed(run: RunDetail): React.CSSProperties {
  const [x0, y0, x1, y1] = run.window as [number, number, number, number];
  const { width, height } = run.run;
  const p = (v: number, of: number) => `${(v / of) * 100}%`;
  return { left: p(x0, width), top: p(y0, height), width: p(x1 - x0, width), height: p(y1 - y0, height) };
}
