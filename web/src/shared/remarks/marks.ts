/** Point is a place in the frame, in shares of its width and height. */
export type Point = [number, number];

/** Mark is what a remark points with: a spot, two corners of a box, or the points of a stroke. */
export type Mark = { kind: "spot" | "box" | "stroke"; points: Point[] };

/** Pin is a remark as far as it is shown in a picture. */
export type Pin = {
  id: number;
  number: number;
  proof: number;
  state: "open" | "done" | "won't do";
  mark: { kind: Mark["kind"]; points: (number[] | null)[] };
  seen: "visible" | "hidden" | "outside" | "gone" | "unknown";
  x: number;
  y: number;
};

/** How many points a stroke has at most. */
export const mostPoints = 400;

const round = (v: number) => Math.round(v * 1e5) / 1e5;

/** drawn is the mark that was drawn through points with a tool, or null where that is none. */
export function drawn(tool: Mark["kind"], way: Point[]): Mark | null {
  const points = way.map(([x, y]): Point => [round(x), round(y)]);
  const first = points[0];
  const last = points.at(-1);
  if (!first || !last) return null;
  if (tool === "spot") return { kind: tool, points: [last] };
  const far = Math.max(...points.map(([x, y]) => Math.max(Math.abs(x - first[0]), Math.abs(y - first[1]))));
  if (far < 0.004) return { kind: "spot", points: [first] }; // a press without a way
  if (tool === "box") return { kind: tool, points: [first, last] };
  const every = Math.ceil(points.length / mostPoints);
  return { kind: tool, points: points.filter((_, i) => i % every === 0) };
}

/** anchor is where a mark is held: the middle of a box, the middle point of a stroke. */
export function anchor(m: Mark): Point {
  if (m.kind === "box") {
    const [a, b] = m.points as [Point, Point];
    return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  }
  return m.points[Math.floor(m.points.length / 2)]!;
}
