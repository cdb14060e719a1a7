import { scenePicture } from "../../api/scenes";
import { stateWords } from "../words";
import { sparksAlone, type RunDetail, type Seen } from "../../api/runs";
import { usePicture } from "./usePicture";
import styles from "./Sheet.module.css";

type Props = { run: RunDetail; pass: string; side: number; seen?: Seen; id?: string };

/**
 * Sheet is a pass of a run in the run's frame: the newest picture of it, or until that is
 * there the one before and why it takes so long; before the first samples the scene's shape.
 */
export function Sheet({ run, pass, side, seen, id }: Props) {
  const { shown, lost } = usePicture(run, pass, side, seen);
  const own = shown?.run === run.run.id;
  if (!own && run.run.samples <= 0) return <Shape run={run} />;
  return (
    <>
      {shown && (
        <img
          src={shown.url}
          alt={`${run.slug}, ${shown.pass}`}
          style={placed(run)}
          draggable={false}
          data-testid={id}
        />
      )}
      {lost ? (
        <div className={styles.note}>The picture could not be had; load the page again</div>
      ) : (
        !(own && shown.pass === pass) && <div className={`${styles.note} ${styles.late}`}>{waitWords(run, pass)}</div>
      )}
    </>
  );
}

/** waitWords tells what a picture of a pass waits for. */
const waitWords = (run: RunDetail, pass: string) =>
  !run.passes.find((p) => p.key === pass)?.denoised
    ? "The picture is on its way"
    : sparksAlone(run)
      ? "Sparks are being taken out of the picture"
      : "Noise is being taken out of the picture";

function Shape({ run }: { run: RunDetail }) {
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
function placed(run: RunDetail): React.CSSProperties {
  const [x0, y0, x1, y1] = run.window as [number, number, number, number];
  const { width, height } = run.run;
  const p = (v: number, of: number) => `${(v / of) * 100}%`;
  return { left: p(x0, width), top: p(y0, height), width: p(x1 - x0, width), height: p(y1 - y0, height) };
}
