import { useRef } from "react";
import styles from "./WipeHandle.module.css";
import { middle, through, turned, type Wipe } from "./wipe";

type Props = { wipe: Wipe; set: (w: Wipe) => void; aspect: number };

/** WipeHandle is the line between two pictures, one of which lies over the other; its end turns it. */
export function WipeHandle({ wipe, set, aspect }: Props) {
  const drag = useRef<"move" | "turn" | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const move = (e: React.PointerEvent) => {
    if (!drag.current) return;
    const b = frame.current!.getBoundingClientRect();
    const p = { x: (e.clientX - b.left) / b.width, y: (e.clientY - b.top) / b.height };
    set(drag.current === "move" ? through(p, wipe.turn, aspect) : turned(wipe, p, aspect));
  };
  const take = (what: "move" | "turn") => (e: React.PointerEvent) => {
    e.stopPropagation();
    drag.current = what;
    e.currentTarget.setPointerCapture(e.pointerId);
  };
  const m = middle(wipe, aspect);
  const by = (at: number, turn: number) =>
    set({ at: Math.min(100, Math.max(0, wipe.at + at)), turn: ((((wipe.turn + turn + 180) % 360) + 360) % 360) - 180 });
  return (
    <div ref={frame} className={styles.frame}>
      <div
        className={`handle ${styles.handle}`}
        role="slider"
        tabIndex={0}
        aria-label="Wipe"
        aria-valuenow={Math.round(wipe.at)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuetext={`${Math.round(wipe.at)} %, turned by ${Math.round(wipe.turn)}°`}
        title="Drag it; its end turns it. Arrow keys move and turn it."
        style={{ left: `${m.x * 100}%`, top: `${m.y * 100}%`, transform: `rotate(${wipe.turn}deg)` }}
        onPointerDown={take("move")}
        onPointerMove={move}
        onPointerUp={() => (drag.current = null)}
        onDoubleClick={(e) => {
          e.stopPropagation();
          set({ at: 50, turn: 0 });
        }}
        onKeyDown={(e) => {
          const d = e.shiftKey ? 10 : 1;
          if (e.key === "ArrowLeft") by(-d, 0);
          if (e.key === "ArrowRight") by(d, 0);
          if (e.key === "ArrowUp") by(0, -5);
          if (e.key === "ArrowDown") by(0, 5);
        }}
      >
        <i onPointerDown={take("turn")} />
      </div>
    </div>
  );
}
