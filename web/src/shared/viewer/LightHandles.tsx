import { useRef } from "react";
import type { Drawing } from "./drawing";
import styles from "./Handles.module.css";

export type Handle = { name: string; at: number[]; aim: number[]; on: boolean; picked: boolean };

export type Handles = {
  /** What the lights stand around, metres. */
  middle: number[];
  lights: Handle[];
  onPick: (light: number, add: boolean) => void;
  /** A light was dragged: degrees to the right of the front, and over the horizon. */
  onTurn: (light: number, direction: number, height: number) => void;
};

/** How far from the border of the view a handle stays whose light is out of sight, pixels. */
const inset = 14;

/** Handles nearer to each other than this would hide each other, pixels. */
const apart = { x: 60, y: 22 };

/** spread is where handles are: at their lights, or at the border, none upon another. */
function spread(p: Handles & { drawing: Drawing; size: { w: number; h: number } }) {
  const within = (v: number, most: number) => Math.min(most - inset, Math.max(inset, v));
  const out: ({ x: number; y: number } | null)[] = [];
  for (const l of p.lights) {
    const at = p.drawing.at(l.at);
    const to = at && { x: within(at.x, p.size.w), y: within(at.y, p.size.h) };
    const meets = (o: { x: number; y: number } | null) =>
      to && o && Math.abs(o.x - to.x) < apart.x && Math.abs(o.y - to.y) < apart.y;
    while (to && out.some(meets) && to.y < p.size.h) to.y += apart.y;
    out.push(to);
  }
  return out;
}

const degrees = (rad: number) => Math.round((rad * 180) / Math.PI);

/** LightHandles are the lights of the stage over the view: dragged, one goes around the product and stays aimed. */
export function LightHandles(p: Handles & { drawing: Drawing; size: { w: number; h: number } }) {
  const drag = useRef<{ light: number; near: boolean; radius: number; moved: boolean } | null>(null);
  const places = spread(p);
  return (
    <>
      <svg className={styles.lines} width={p.size.w} height={p.size.h} aria-hidden>
        {p.lights.map((l) => {
          const a = p.drawing.at(l.at);
          const b = p.drawing.at(l.aim);
          return l.picked && a && b && <path key={l.name} d={`M${a.x} ${a.y}L${b.x} ${b.y}`} />;
        })}
      </svg>
      {p.lights.map((l, i) => {
        const at = places[i];
        if (!at) return null;
        return (
          <button
            key={l.name}
            className={styles.handle}
            data-picked={l.picked || undefined}
            data-off={!l.on || undefined}
            style={{ left: at.x, top: at.y }}
            title={`${l.name}: drag it around the product`}
            aria-pressed={l.picked}
            onPointerDown={(e) => {
              e.stopPropagation();
              e.currentTarget.setPointerCapture(e.pointerId);
              const away = l.at.map((v, k) => v - p.middle[k]!);
              drag.current = {
                light: i,
                near: p.drawing.isNear(l.at, p.middle),
                radius: Math.hypot(...away),
                moved: false,
              };
              if (!l.picked || e.shiftKey || e.ctrlKey || e.metaKey) p.onPick(i, e.shiftKey || e.ctrlKey || e.metaKey);
            }}
            onPointerMove={(e) => {
              const d = drag.current;
              if (!d || d.light !== i || Math.hypot(e.movementX, e.movementY) === 0) return;
              const box = e.currentTarget.parentElement!.getBoundingClientRect();
              const to = p.drawing.onto(e.clientX - box.left, e.clientY - box.top, p.middle, d.radius, d.near);
              const [dx, dy, dz] = to.map((v, k) => v - p.middle[k]!) as [number, number, number];
              d.moved = true;
              p.onTurn(i, degrees(Math.atan2(dx, dz)), degrees(Math.asin(Math.max(-1, Math.min(1, dy / d.radius)))));
            }}
            onPointerUp={() => (drag.current = null)}
            onPointerCancel={() => (drag.current = null)}
          >
            {l.name}
          </button>
        );
      })}
    </>
  );
}
