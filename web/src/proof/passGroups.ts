import { plainOf, type RunDetail } from "../api/runs";

type Pass = RunDetail["passes"][number];
/** A picture, and what is read off it: plain, denoised, and what denoising changed. */
export type PassGroup = { title: string; passes: Pass[] };

/** passGroups are the passes of a run, those of one picture together. */
export function passGroups(run: RunDetail): PassGroup[] {
  const groups = new Map<string, PassGroup>();
  for (const p of run.passes) {
    const plain = plainOf(p.key);
    const group = groups.get(plain);
    if (group) group.passes.push(p);
    else groups.set(plain, { title: p.title, passes: [p] });
  }
  return [...groups.values()];
}

/** best is the pass of a group that is looked at first: denoised, where there is one. */
export const best = (g: PassGroup) => g.passes.find((p) => p.denoised && !p.data) ?? g.passes[0]!;

/** like is the pass of a group that is to it what another is to its own group, or its best. */
export const like = (g: PassGroup, other: Pass) =>
  g.passes.find((p) => p.denoised === other.denoised && p.data === other.data) ?? best(g);
