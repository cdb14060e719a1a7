import { useRef } from "react";
import type { Schemas } from "../../api/http";
import type { Drawing } from "./drawing";
import styles from "./Handles.module.css";

export type HandleMode = "move" | "turn" | "size";
type By = Schemas["Together"];

export type PartHandlesOf = {
  mode: HandleMode;
  parts: number[];
  /** A drag has begun; what follows goes on from there. */
  onBegin: () => void;
  /** What was done since, as one. */
  onDrag: (by: By) => void;
};

const axes = ["x", "y", "z"] as const;
const ways = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** How far from the middle a handle stands, pixels. */
const reach = 78;
/** How finely a ring is drawn, and how finely it turns while Shift is held, degrees. */
const ringStep = 6;
const snap = 15;

type Point = { x: number; y: number };

const nothing: By = { shift: { x: 0, y: 0, z: 0 }, axis: "x", turn: 0, scale: 1 };

/** ringAt is a point of the circle about an axis, an angle from its beginning, degrees. */
function ringAt(middle: number[], axis: (typeof axes)[number], radius: number, angle: number): number[] {
  const k = axes.indexOf(axis);
  const p = [...middle];
  p[(k + 1) % 3]! += radius * Math.cos((angle * Math.PI) / 180);
  p[(k + 2) % 3]! += radius * Math.sin((angle * Math.PI) / 180);
  return p;
}

/** ringOf is the circle about an axis in the view; null where some of it is behind the camera. */
function ringOf(drawing: Drawing, middle: number[], axis: (typeof axes)[number], radius: number): Point[] | null {
  const out: Point[] = [];
  for (let a = 0; a < 360; a += ringStep) {
    const p = drawing.at(ringAt(middle, axis, radius, a));
    if (!p) return null;
    out.push(p);
  }
  return out;
}

/** angleNear is the angle of a ring that is drawn nearest to a point, degrees. */
function angleNear(ring: Point[], to: Point): number {
  let best = 0;
  let away = Infinity;
  for (let k = 0; k < ring.length; k++) {
    const a = ring[k]!;
    const b = ring[(k + 1) % ring.length]!;
    const along = (b.x - a.x) ** 2 + (b.y - a.y) ** 2;
    const t = Math.min(1, Math.max(0, ((to.x - a.x) * (b.x - a.x) + (to.y - a.y) * (b.y - a.y)) / (along || 1)));
    const d = Math.hypot(to.x - a.x - t * (b.x - a.x), to.y - a.y - t * (b.y - a.y));
    if (d < away) [away, best] = [d, (k + t) * ringStep];
  }
  return best;
}

/** PartHandles move, turn or resize what is picked, as one, over the view. */
export function PartHandles(p: PartHandlesOf & { drawing: Drawing; size: { w: number; h: number } }) {
  const drag = useRef<{ handle: string; to: (at: Point, exact: boolean) => By } | null>(null);
  const middle = p.drawing.middleOf(p.parts);
  const at = middle && p.drawing.at(middle);
  if (!middle || !at) return null;
  const metre = p.drawing.pixelsAMetre(middle); // across the line of sight, there
  if (!(metre > 0)) return null;
  const far = reach / metre;

  const handles: { name: string; at: Point; line?: Point[]; ring?: Point[]; says: string }[] = [];
  if (p.mode === "size") handles.push({ name: "size", at: { x: at.x + reach, y: at.y }, line: [at], says: "size" });
  for (const axis of p.mode === "size" ? [] : axes) {
    if (p.mode === "move") {
      const tip = p.drawing.at(middle.map((v, k) => v + far * ways[axis][k]!));
      // One that points at the camera cannot be dragged.
      if (tip && Math.hypot(tip.x - at.x, tip.y - at.y) > reach / 8)
        handles.push({ name: axis, at: tip, line: [at, tip], says: `move along ${axis}` });
    } else {
      const ring = ringOf(p.drawing, middle, axis, far);
      if (!ring) continue;
      // Where the ring comes nearest to the camera, off the others.
      const on = ring.map((q, k) => ({ q, near: p.drawing.isNear(ringAt(middle, axis, far, k * ringStep), middle) }));
      const front = on.filter((o) => o.near);
      const pill = front[Math.floor(front.length / 2)] ?? on[0]!;
      handles.push({ name: axis, at: pill.q, ring, says: `turn about ${axis}` });
    }
  }

  const begin = (h: (typeof handles)[number], from: Point): ((to: Point, exact: boolean) => By) => {
    const axis = h.name as (typeof axes)[number];
    if (p.mode === "size") {
      const was = Math.max(8, Math.hypot(from.x - at.x, from.y - at.y));
      return (to) => ({
        ...nothing,
        scale: Math.min(1000, Math.max(0.001, +(Math.hypot(to.x - at.x, to.y - at.y) / was).toFixed(3))),
      });
    }
    if (p.mode === "move") {
      const way = { x: h.at.x - at.x, y: h.at.y - at.y };
      const length = way.x ** 2 + way.y ** 2;
      return (to) => {
        const mm = (((to.x - from.x) * way.x + (to.y - from.y) * way.y) / length) * far * 1000;
        return { ...nothing, shift: { ...nothing.shift, [axis]: +mm.toPrecision(4) } };
      };
    }
    let last = angleNear(h.ring!, from);
    let sum = 0;
    return (to, exact) => {
      const now = angleNear(h.ring!, to);
      sum += ((now - last + 540) % 360) - 180; // the shorter way round
      last = now;
      return { ...nothing, axis, turn: exact ? Math.round(sum / snap) * snap : Math.round(sum * 10) / 10 };
    };
  };

  const point = (e: React.PointerEvent<HTMLButtonElement>): Point => {
    const box = e.currentTarget.parentElement!.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const drawn = (points: Point[]) => "M" + points.map((q) => `${q.x} ${q.y}`).join("L");
  return (
    <>
      <svg className={styles.lines} width={p.size.w} height={p.size.h} aria-hidden>
        {handles.map((h) => (
          <path key={h.name} d={h.ring ? drawn(h.ring) + "Z" : drawn([...h.line!, h.at])} />
        ))}
      </svg>
      {handles.map((h) => (
        <button
          key={h.name}
          className={styles.handle}
          data-picked
          style={{ left: h.at.x, top: h.at.y }}
          aria-label={h.says}
          title={`Drag to ${h.says}${p.mode === "turn" ? `; with Shift in steps of ${snap}°` : ""}. Arrow keys: by one, with Shift by ten.`}
          onKeyDown={(e) => {
            const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
            if (!way) return;
            e.preventDefault();
            const by = way * (e.shiftKey ? 10 : 1);
            p.onBegin();
            if (p.mode === "move") p.onDrag({ ...nothing, shift: { ...nothing.shift, [h.name]: by } });
            else if (p.mode === "turn") p.onDrag({ ...nothing, axis: h.name as (typeof axes)[number], turn: by });
            else p.onDrag({ ...nothing, scale: 1 + by / 100 });
          }}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            drag.current = { handle: h.name, to: begin(h, point(e)) };
            p.onBegin();
          }}
          onPointerMove={(e) => {
            if (drag.current?.handle !== h.name || Math.hypot(e.movementX, e.movementY) === 0) return;
            p.onDrag(drag.current.to(point(e), e.shiftKey));
          }}
          onPointerUp={() => (drag.current = null)}
          onPointerCancel={() => (drag.current = null)}
        >
          {h.name}
        </button>
      ))}
    </>
  );
}
