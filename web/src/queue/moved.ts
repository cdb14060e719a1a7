import type { Run } from "../api/runs";

/** placed is the order of waiting runs with one of them moved to a place. */
export function placed(runs: Run[], id: number, to: number): Run[] {
  const one = runs.find((r) => r.id === id);
  const rest = runs.filter((r) => r.id !== id);
  return one ? [...rest.slice(0, to), one, ...rest.slice(to)] : runs;
}

/**
 * endsIn is in how many seconds each waiting run would be rendered in another order, by what is told of the present
 * one; runs of which that is not known are left out.
 */
export function endsIn(runs: Run[], begins: number, order: Run[]): Map<number, number> {
  const takes = new Map<number, number>();
  let before = begins;
  for (const r of runs) {
    if (!r.ends) continue;
    takes.set(r.id, r.ends.mid - before);
    before = r.ends.mid;
  }
  const out = new Map<number, number>();
  let at = begins;
  for (const r of order) {
    const t = takes.get(r.id);
    // Runs for the lists make way for all others; behind one that is not known, nothing is.
    if (r.background) continue;
    if (t === undefined) break;
    at += t;
    out.set(r.id, at);
  }
  return out;
}
