import { scenePicture } from "../../api/scenes";
import { pictureURL } from "../../api/runs";
import styles from "./Thumb.module.css";

/** What a small picture needs to know of a run. */
export type Pictured = { id: number; state: string; samples: number };

/** hasPicture tells whether a run has anything to show. */
const hasPicture = (r: Pictured | null | undefined): r is Pictured => r != null && r.samples > 0;

type Props = { run?: Pictured | null; pass?: string; scene?: number; view?: string };

/** Thumb is a run's picture, small; before it has one, the scene's shape from its view. */
export function Thumb({ run, pass = "beauty", scene, view }: Props) {
  const src = hasPicture(run)
    ? pictureURL(run.id, pass, 184, `${run.state}-${run.samples.toFixed(0)}`)
    : scene
      ? scenePicture(scene, view)
      : null;
  if (!src) return <span className={styles.thumb} />;
  return <img className={styles.thumb} alt="" loading="lazy" fetchPriority="low" src={src} />;
}
