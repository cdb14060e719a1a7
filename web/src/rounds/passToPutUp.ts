import { queryClient } from "../api/http";
import { bestOf, clayOf, runQuery } from "../api/runs";
import type { Round } from "../api/rounds";

/** passToPutUp is the picture of a run that a round of a kind judges: in clay where there is one and the round is of clay. */
export async function passToPutUp(id: number, kind: Round["kind"]) {
  const run = await queryClient.fetchQuery(runQuery(id));
  const best = bestOf(run);
  const clay = clayOf(best);
  return kind === "clay" && run.passes.some((p) => p.key === clay) ? clay : best;
}
