/** A line across a frame: at is how much of the frame lies before it, in percent along its normal; turned in degrees from upright. */
export type Wipe = { at: number; turn: number };

export const upright: Wipe = { at: 50, turn: 0 };

type Point = { x: number; y: number };

/** normal points from the side before the line to the side after it; x is in heights of the frame, as y is. */
const normal = (turn: number): Point => ({
  x: Math.cos((turn * Math.PI) / 180),
  y: Math.sin((turn * Math.PI) / 180),
});

/** reach is how far the frame extends along the normal, in its heights. */
const reach = (turn: number, aspect: number) => {
  const n = normal(turn);
  return Math.abs(n.x) * aspect + Math.abs(n.y);
};

/** How far the line is from the frame's middle along its normal, in heights of the frame. */
const offset = (w: Wipe, aspect: number) => (w.at / 100 - 0.5) * reach(w.turn, aspect);

/** middle is where the line is nearest to the frame's middle, as shares of the frame. */
export const middle = (w: Wipe, aspect: number): Point => {
  const n = normal(w.turn);
  const d = offset(w, aspect);
  return { x: 0.5 + (n.x * d) / aspect, y: 0.5 + n.y * d };
};

/** through is the line through a point of the frame, as shares of it. */
export const through = (p: Point, turn: number, aspect: number): Wipe => {
  const n = normal(turn);
  const d = (p.x - 0.5) * aspect * n.x + (p.y - 0.5) * n.y;
  return { at: Math.min(100, Math.max(0, (d / reach(turn, aspect) + 0.5) * 100)), turn };
};

/** turned is the line turned about its middle so that its end points to a place, as shares of the frame. */
export const turned = (w: Wipe, to: Point, aspect: number): Wipe => {
  const m = middle(w, aspect);
  // An upright line points up.
  const turn = (Math.atan2((to.x - m.x) * aspect, m.y - to.y) * 180) / Math.PI;
  return through(m, Math.abs(turn) < 3 ? 0 : turn, aspect);
};

/** side is the part of the frame before the line, or after it, as a clip path. */
export function side(w: Wipe, aspect: number, which: "before" | "after"): string {
  const n = normal(w.turn);
  const d = offset(w, aspect);
  const sign = which === "before" ? 1 : -1;
  const inside = (p: Point) => sign * (d - ((p.x - 0.5) * aspect * n.x + (p.y - 0.5) * n.y));
  const corners: Point[] = [
    { x: 0, y: 0 },
    { x: 1, y: 0 },
    { x: 1, y: 1 },
    { x: 0, y: 1 },
  ];
  const out: Point[] = [];
  corners.forEach((a, i) => {
    const b = corners[(i + 1) % 4]!;
    const [ia, ib] = [inside(a), inside(b)];
    if (ia >= 0) out.push(a);
    if (ia < 0 !== ib < 0) {
      const t = ia / (ia - ib);
      out.push({ x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y) });
    }
  });
  if (out.length < 3) return "inset(50%)";
  return `polygon(${out.map((p) => `${(p.x * 100).toFixed(3)}% ${(p.y * 100).toFixed(3)}%`).join(", ")})`;
}
