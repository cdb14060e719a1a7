import { useEffect, useRef, useState } from "react";
import { drawn, type Mark, type Point } from "./marks";
import { Marks } from "./Marks";
import styles from "./Marks.module.css";

const steps: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** MarkCatcher lies over a frame and has a mark drawn with a tool. Arrow keys move a spot, Enter places it. */
export function MarkCatcher({ tool, done }: { tool: Mark["kind"]; done: (m: Mark) => void }) {
  const way = useRef<Point[]>([]);
  const [mark, setMark] = useState<Mark | null>(null);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.focus({ preventScroll: true }), []);
  const keys = (e: React.KeyboardEvent) => {
    const spot: Point = mark?.points[0] ?? [0.5, 0.5];
    const step = steps[e.key];
    if (step) {
      const by = e.shiftKey ? 0.05 : 0.01;
      const c = (v: number) => Math.min(1, Math.max(0, v));
      setMark(drawn("spot", [[c(spot[0] + by * step[0]), c(spot[1] + by * step[1])]]));
    } else if (e.key === "Enter") done({ kind: "spot", points: [spot] });
    else return;
    e.stopPropagation();
    e.preventDefault();
  };
  const at = (e: React.PointerEvent): Point => {
    const b = e.currentTarget.getBoundingClientRect();
    const c = (v: number) => Math.min(1, Math.max(0, v));
    return [c((e.clientX - b.left) / b.width), c((e.clientY - b.top) / b.height)];
  };
  return (
    <div
      className={`handle ${styles.catcher}`}
      ref={box}
      tabIndex={0}
      role="application"
      aria-label="Draw on the picture, or move a spot with the arrow keys and press Enter"
      data-testid="mark-here"
      onKeyDown={keys}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        way.current = [at(e)];
        setMark(drawn(tool, way.current));
      }}
      onPointerMove={(e) => {
        if (way.current.length === 0) return;
        way.current.push(at(e));
        setMark(drawn(tool, way.current));
      }}
      onPointerUp={() => {
        const m = drawn(tool, way.current);
        way.current = [];
        setMark(null);
        if (m) done(m);
      }}
      onPointerCancel={() => {
        way.current = [];
        setMark(null);
      }}
    >
      <Marks pins={[]} proof={0} choose={() => undefined} draft={mark} />
    </div>
  );
}
