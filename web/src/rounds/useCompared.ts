import { useBoard, type ProofUp, type Round } from "../api/rounds";
import { useAddress } from "../shared/useAddress";

/** Shown is a picture of a proof; without a pass it is the one that is chosen for the proof in front. */
export type Shown = { key: string; proof: ProofUp; pass: string | null; words: string };

/** How many pictures are laid beside the one in front at most. */
export const mostOthers = 3;

/**
 * useCompared is what a proof is compared with: as the address says, any pictures of any round,
 * or else the same view as it was before.
 */
export function useCompared(round: Round, proof: ProofUp | undefined, before: Shown | null) {
  const [query, put] = useAddress();
  const rounds = useBoard(round.project).data?.rounds ?? [];
  const all = rounds.flatMap((r) =>
    r.proofs.flatMap((p) =>
      p.passes.map((q): Shown => {
        const words = `Round ${r.number}, ${p.view}, proof ${p.number}`;
        return { key: `${p.id}:${q.key}`, proof: p, pass: q.key, words: `${words}, ${q.title}` };
      }),
    ),
  );
  const asked = query.get("with");
  const keys = asked?.split(" ") ?? [];
  const chosen = all.filter((s) => keys.includes(s.key)).slice(0, mostOthers);
  const others = asked === null ? (before ? [before] : []) : chosen;
  return {
    others,
    /** All there is to compare with, by the rounds. */
    groups: rounds
      .map((r) => ({
        label: `Round ${r.number}, ${r.title}`,
        options: all.filter((s) => s.proof.round === r.id).map((s) => ({ value: s.key, label: optionWords(s, proof) })),
      }))
      .filter((g) => g.options.length > 0),
    choose: (list: string[]) => put({ with: list.length > 0 ? list.slice(-mostOthers).join(" ") : null }),
    chosen: asked === null ? [] : chosen.map((s) => s.key),
  };
}

const optionWords = (s: Shown, front: ProofUp | undefined) =>
  `${s.proof.view}, proof ${s.proof.number}${s.proof.id === front?.id ? " (this one)" : ""}, ${
    s.proof.passes.find((q) => q.key === s.pass)?.title
  }`;

export type Compared = ReturnType<typeof useCompared>;
