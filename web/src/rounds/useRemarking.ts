import { useState } from "react";
import { useRemarks, type ProofUp } from "../api/rounds";
import type { Mark } from "../shared/remarks/marks";
import { useAddress } from "../shared/useAddress";
import { useKeys } from "../shared/useKeys";

export type Filter = { state: "open" | "all"; mine: boolean; part: string; round: number };

/** useRemarking is what is done with the remarks seen in a proof: one chosen, one drawn, some filtered out. */
export function useRemarking(proof: ProofUp | undefined, may: boolean) {
  const [query, put] = useAddress();
  const all = useRemarks(proof?.id).data ?? [];
  const [filter, setFilter] = useState<Filter>({ state: "open", mine: false, part: "", round: 0 });
  const [tool, setTool] = useState<Mark["kind"] | null>(null);
  const [draft, setDraft] = useState<{ proof: number; mark: Mark } | null>(null);
  const chosen = Number(query.get("remark")) || undefined;
  const choose = (id: number | null) => put(id === null ? { remark: null } : { remark: String(id), side: "remarks" });
  const listed = all.filter(
    (r) =>
      r.id === chosen ||
      ((filter.state === "all" || r.state === "open") &&
        (!filter.mine || r.mine) &&
        (filter.part === "" || r.part === filter.part) &&
        (filter.round === 0 || r.round === filter.round)),
  );
  const step = (by: number) => {
    const open = listed.filter((r) => r.state === "open");
    if (open.length === 0) return;
    const at = open.findIndex((r) => r.id === chosen);
    choose(open[at < 0 ? (by > 0 ? 0 : open.length - 1) : (at + by + open.length) % open.length]!.id);
  };
  const stop = () => {
    setTool(null);
    setDraft(null);
  };
  useKeys([
    { key: "n", says: "Next open remark", act: () => step(1) },
    { key: "p", says: "Open remark before", act: () => step(-1) },
    ...(may && proof ? [{ key: "r", says: "Make a remark", act: () => setTool(tool ? null : "spot") }] : []),
    ...(tool || draft ? [{ key: "escape", says: "Cancel the remark", act: stop }] : []),
  ]);
  return {
    all,
    listed,
    open: all.filter((r) => r.state === "open").length,
    chosen,
    choose,
    filter,
    setFilter,
    tool,
    setTool,
    draft: draft && draft.proof === proof?.id ? draft.mark : null,
    draw: (mark: Mark) => {
      setTool(null);
      if (proof) setDraft({ proof: proof.id, mark });
      put({ side: "remarks", remark: null });
    },
    stop,
  };
}

export type Remarking = ReturnType<typeof useRemarking>;
