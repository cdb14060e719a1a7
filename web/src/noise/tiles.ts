import type { Area, NoiseMap } from "../api/noise";

/** A part of the picture with the noise of its noisiest tile. */
export type Cell = { area: Area; noise: number; settled: boolean };

/** areaOf is where a tile lies. */
function areaOf(m: NoiseMap, x: number, y: number, across = 1): Area {
  const [left, top, right, bottom] = m.window as Area;
  return [
    left + x * m.side,
    top + y * m.side,
    Math.min(right, left + (x + across) * m.side),
    Math.min(bottom, top + (y + across) * m.side),
  ];
}

/** inArea tells whether a tile gets samples of this run. */
function counts(m: NoiseMap, a: Area): boolean {
  const [l, t, r, b] = m.area as Area;
  return r <= l || (a[0] < r && a[2] > l && a[1] < b && a[3] > t);
}

/** cells are squares of some tiles across, those in sight, that are known. */
export function cells(m: NoiseMap, across: number, sight: Area): Cell[] {
  const out: Cell[] = [];
  const [left, top] = m.window as Area;
  const first = (v: number, from: number) => Math.max(0, Math.floor((v - from) / (m.side * across)));
  for (let y = first(sight[1], top); y * across < m.rows && top + y * across * m.side < sight[3]; y++)
    for (let x = first(sight[0], left); x * across < m.columns && left + x * across * m.side < sight[2]; x++) {
      let noise = -1;
      let settled = true;
      for (let v = y * across; v < Math.min(m.rows, (y + 1) * across); v++)
        for (let u = x * across; u < Math.min(m.columns, (x + 1) * across); u++) {
          noise = Math.max(noise, m.left[v * m.columns + u] ?? -1);
          settled &&= m.settled[v * m.columns + u]!;
        }
      if (noise >= 0) out.push({ area: areaOf(m, x * across, y * across, across), noise, settled });
    }
  return out;
}

/** How many places are told of, and how far apart they are, in tiles. */
const mostPlaces = 6;
const apart = 6;

/** worst are the noisiest places, each at some distance from the others. */
export function worst(m: NoiseMap): (Cell & { x: number; y: number })[] {
  const order = m.left
    .map((noise, i) => ({ noise: noise ?? -1, i }))
    .filter((t) => t.noise > 0)
    .sort((a, b) => b.noise - a.noise);
  const out: (Cell & { x: number; y: number })[] = [];
  for (const { noise, i } of order) {
    const [x, y] = [i % m.columns, Math.floor(i / m.columns)];
    if (out.some((c) => Math.abs(c.x - x) < apart && Math.abs(c.y - y) < apart)) continue;
    const area = areaOf(m, x, y);
    if (!counts(m, area)) continue;
    out.push({ area, noise, settled: m.settled[i]!, x, y });
    if (out.length === mostPlaces) break;
  }
  return out;
}

/** Summary is what a map says in a line. */
export type Summary = { frame: number; most: number; above: number; tiles: number; settled: number };

/** summary is of the tiles that get samples of this run; undefined where nothing is known of them. */
export function summary(m: NoiseMap): Summary | undefined {
  const at = m.left.map((_, i) => i).filter((i) => counts(m, areaOf(m, i % m.columns, Math.floor(i / m.columns))));
  const known = at
    .map((i) => m.left[i])
    .filter((n): n is number => n != null)
    .sort((a, b) => a - b);
  if (known.length === 0) return undefined;
  return {
    frame: known[Math.min(known.length, Math.ceil(0.95 * known.length)) - 1]!,
    most: known.at(-1)!,
    above: m.target > 0 ? known.filter((n) => n > m.target).length : 0,
    tiles: at.length,
    settled: at.filter((i) => m.settled[i]).length,
  };
}

/** strength is how much a noise stands out, 0 to 1: nothing up to its target, all of it from three times that. */
export const strength = (noise: number, target: number) =>
  target > 0 ? Math.min(1, Math.max(0, (noise / target - 1) / 2)) : 0;

/** said is a noise in few letters. */
export const said = (n: number) => n.toFixed(n < 0.95 ? 2 : n < 9.95 ? 1 : 0);
