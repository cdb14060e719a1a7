import { useEffect, useRef, type CSSProperties } from "react";
import { useLivePicture, type LivePicture } from "./livePicture";
import styles from "./Viewer.module.css";

/** LiveCanvas is where a live picture is drawn, under the turnable view. */
export function LiveCanvas({ picture, place }: { picture: LivePicture; place: CSSProperties }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useLivePicture(picture, (s) => s.shown);
  const stand = useLivePicture(picture, (s) => s.frame && `${s.frame.scale}/${s.frame.samples}`);
  useEffect(() => {
    picture.drawOn(canvas.current);
    return () => picture.drawOn(null);
  }, [picture]);
  return (
    <canvas
      ref={canvas}
      className={styles.live}
      data-live={shown ? stand : "none"}
      style={{ ...place, visibility: shown ? "visible" : "hidden" }}
      aria-hidden
    />
  );
}
