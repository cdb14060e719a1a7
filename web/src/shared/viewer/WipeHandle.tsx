import { useRef } from "react";
import styles from "./WipeHandle.module.css";

/** WipeHandle is the line between two pictures, one of which lies over the other. at is in percent of the width. */
export function WipeHandle({ at, set }: { at: number; set: (v: number) => void }) {
  const drag = useRef(false);
  const move = (e: React.PointerEvent) => {
    if (!drag.current) return;
    const b = e.currentTarget.parentElement!.getBoundingClientRect();
    set(Math.min(100, Math.max(0, ((e.clientX - b.left) / b.width) * 100)));
  };
  return (
    <div
      className={styles.handle}
      role="slider"
      tabIndex={0}
      aria-label="Wipe"
      aria-valuenow={Math.round(at)}
      aria-valuemin={0}
      aria-valuemax={100}
      style={{ left: `${at}%` }}
      onPointerDown={(e) => {
        drag.current = true;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={move}
      onPointerUp={() => (drag.current = false)}
      onKeyDown={(e) => {
        const d = e.shiftKey ? 10 : 1;
        if (e.key === "ArrowLeft") set(Math.max(0, at - d));
        if (e.key === "ArrowRight") set(Math.min(100, at + d));
      }}
    />
  );
}
