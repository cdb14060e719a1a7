import { useRef, useState } from "react";
import styles from "./ReadOuts.module.css";

/** AreaCatcher lies over the frame and has an area of it picked, in shares of the frame. */
export function AreaCatcher(p: { area: Area | null; pick: (a: Area) => void }) {
  const from = useRef<{ x: number; y: number } | null>(null);
  const [drag, setDrag] = useState<Area | null>(null);
  const shown = drag ?? p.area;
  const at = (e: React.PointerEvent) => {
    const b = e.currentTarget.getBoundingClientRect();
    const c = (v: number) => Math.min(1, Math.max(0, v));
    return { x: c((e.clientX - b.left) / b.width), y: c((e.clientY - b.top) / b.height) };
  };
  return (
    <div
      className={styles.catcher}
      data-testid="area"
      onPointerDown={(e) => {
        e.stopPropagation(); // what lies below would be dragged too
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = at(e);
      }}
      onPointerMove={(e) => {
        if (!from.current) return;
        const q = at(e);
        const f = from.current;
        setDrag([Math.min(f.x, q.x), Math.min(f.y, q.y), Math.max(f.x, q.x), Math.max(f.y, q.y)]);
      }}
      onPointerUp={() => {
        from.current = null;
        if (drag && drag[2] > drag[0] && drag[3] > drag[1]) p.pick(drag);
        setDrag(null);
      }}
    >
      {shown && (
        <span
          className={styles.area}
          style={{
            left: `${100 * shown[0]}%`,
            top: `${100 * shown[1]}%`,
            width: `${100 * (shown[2] - shown[0])}%`,
            height: `${100 * (shown[3] - shown[1])}%`,
          }}
        />
      )}
    </div>
  );
}

/** Left, top, right and bottom, in shares of the frame. */
export type Area = [number, number, number, number];
