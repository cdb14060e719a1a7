import { plainOf, twinOf, useRun, useRuns, type Run, type RunDetail } from "../api/runs";

export type Mode = "one" | "wipe" | "flip";

/** How a proof is compared, as the address says. */
type Asked = { mode: Mode; with: string | null };

/** useCompared is what a pass of a run is compared with. */
export function useCompared(run: RunDetail, pass: RunDetail["passes"][number], { mode, with: asked }: Asked) {
  // Proofs from the same view can be laid over this one.
  const all: Run[] = useRuns(run.run.job).data?.pages.flatMap((p) => p.runs) ?? [];
  const mates = all.filter(
    (r) =>
      r.id !== run.run.id &&
      r.samples > 0 &&
      r.view === run.run.view &&
      Math.abs(r.width / r.height - run.run.width / run.run.height) < 0.01,
  );
  // A denoised pass is first of all compared with the plain one of the same run.
  // A run that is finished and in clay has the other picture in itself.
  const blends = pass.denoised && !pass.data;
  const twin = twinOf(run, pass.key);
  const withTwin = twin !== undefined && (asked ?? "twin") === "twin";
  const chosen = withTwin ? run.run.id : Number(asked ?? (blends ? run.run.id : mates[0]?.id)) || undefined;
  const itself = chosen === run.run.id;
  const another = useRun(mode === "one" || itself ? undefined : chosen).data;
  const other = itself ? run : another;
  const wanted = withTwin ? twin : itself ? plainOf(pass.key) : pass.key;
  return {
    mates,
    twin,
    withTwin,
    blends,
    /** The run, and its pass, that lies over the proof. */
    other,
    otherPass: other?.passes.find((p) => p.key === wanted) ?? other?.passes[0],
    /** There is nothing to compare with. */
    alone: mates.length === 0 && !blends && !twin,
  };
}

export type Compared = ReturnType<typeof useCompared>;
