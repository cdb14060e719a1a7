import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";

export type Run = Schemas["Run"];
export type RunDetail = Schemas["RunsDetail"];
export type Look = { ev: number; display: "filmic" | "plain" };
export type Intent = "stop" | "keep" | "cancel" | "resume";

/** useRuns are pages of runs, newest first: of a job or of all, in some states or any. */
export const useRuns = (job = 0, states = "") =>
  useInfiniteQuery({
    queryKey: ["runs", job, states],
    initialPageParam: 0,
    queryFn: ({ pageParam }) => take(api.GET("/api/runs", { params: { query: { job, states, before: pageParam } } })),
    getNextPageParam: (last) => last.next || undefined,
  });

/** useEndedRuns are the newest runs of a project that are done or kept. */
export const useEndedRuns = (project: number) =>
  useQuery({
    queryKey: ["runs", "ended", project],
    queryFn: () => take(api.GET("/api/runs", { params: { query: { project, states: "done,kept" } } })),
  });

/** endedRunsOf are the newest of each view, finished and in clay, that is not up in a round. */
export function endedRunsOf(page: { runs: Run[] } | undefined, round: { proofs: { run: number }[] }): Run[] {
  const newest = new Map<string, Run>();
  for (const r of page?.runs ?? []) {
    const of = `${r.scene} ${r.view} ${r.surface}`;
    if (!newest.has(of)) newest.set(of, r);
  }
  return [...newest.values()].filter((r) => !round.proofs.some((p) => p.run === r.id));
}

export const runQuery = (id: number) => ({
  queryKey: ["run", id],
  queryFn: () => take(api.GET("/api/runs/{id}", { params: { path: { id } } })),
});

export const useRun = (id: number | undefined) =>
  useQuery({
    ...runQuery(id ?? 0),
    enabled: id !== undefined,
    placeholderData: (old) => (old?.run.id === id ? old : undefined),
  });

export const useQueue = () =>
  useQuery({ queryKey: ["queue"], refetchInterval: 2000, queryFn: () => take(api.GET("/api/queue")) });

/** How a run's ticket says its picture is looked at. */
export const lookOf = (r: RunDetail): Look => ({
  ev: r.resolved.ticket.view.exposure,
  display: r.resolved.ticket.view.display as Look["display"],
});

/** How a run's ticket says how much of the noise is taken out of denoised passes, in percent. */
export const amountOf = (r: RunDetail) => r.resolved.ticket.quality.denoise.amount;

/** sparksAlone tells whether nothing but sparks is taken out of a run's denoised passes. */
export const sparksAlone = (r: RunDetail) => r.resolved.ticket.quality.denoise.take === "sparks";

/** plainOf is the key of the pass that a denoised one is made of; its own where it is not denoised. */
export const plainOf = (pass: string) => pass.replace(/\.(denoised|doubt)$/, "");

/** bestOf is the pass that shows best what a run is of: denoised, once that costs nothing any more. */
export const bestOf = (r: RunDetail) =>
  r.deliveries[0]?.denoised && r.passes.some((p) => p.key === "beauty.denoised") ? "beauty.denoised" : "beauty";

/** isClay tells passes that show the picture in clay. */
export const isClay = (pass: string) => /^clay(\.|$)/.test(pass);

/** clayOf is the pass that shows in clay what one shows finished. */
export const clayOf = (pass: string) => pass.replace(/^beauty/, "clay");

/** twinOf is the pass that shows in clay what one shows finished, or the other way round; nothing where there is none. */
export function twinOf(run: RunDetail, pass: string): string | undefined {
  const key = isClay(pass) ? pass.replace("clay", "beauty") : clayOf(pass);
  return key !== pass && run.passes.some((p) => p.key === key) ? key : undefined;
}

/** useCast is how far the clay of a run is from neutral, as its ticket has it looked at. */
export const useCast = (run: Run | undefined) => {
  const detail = useRun(run?.id);
  const look = detail.data?.run.id === run?.id && detail.data ? lookOf(detail.data) : undefined;
  return useQuery({
    queryKey: ["cast", run?.id, run?.samples, look?.ev, look?.display],
    enabled: look !== undefined,
    queryFn: () => take(api.GET("/api/runs/{id}/cast", { params: { path: { id: run!.id }, query: look! } })),
  });
};

export const readPixel = (id: number, pass: string, x: number, y: number, look: Look, amount: number) =>
  take(api.GET("/api/runs/{id}/reading", { params: { path: { id }, query: { pass, x, y, amount, ...look } } }));

/** What a picture is looked at with; what is missing is as the run's ticket says. */
export type Seen = { look?: Look; amount?: number };

/** pictureURL is the address of a pass. */
export const pictureURL = (id: number, pass: string, side: number, version: number | string, seen: Seen = {}) => {
  const q = new URLSearchParams({ side: String(side), v: String(version) });
  if (seen.look) {
    q.set("ev", String(seen.look.ev));
    q.set("display", seen.look.display);
  }
  if (seen.amount !== undefined) q.set("amount", String(seen.amount));
  return `/api/runs/${id}/picture/${encodeURIComponent(pass)}.png?${q}`;
};

export const askRun = ({ id, intent }: { id: number; intent: Intent }) =>
  take(api.POST("/api/runs/{id}/{intent}", { params: { path: { id, intent } } }));
export const placeRun = ({ id, after }: { id: number; after: number }) =>
  take(api.PUT("/api/runs/{id}/place", { params: { path: { id } }, body: { after } }));
export const removeRun = ({ id, delivered }: { id: number; delivered: boolean }) =>
  take(api.DELETE("/api/runs/{id}", { params: { path: { id }, query: { delivered } } }));
export const deliverAgain = ({ id, version }: { id: number; version: number }) =>
  take(api.PUT("/api/runs/{id}/delivery", { params: { path: { id } }, body: { version } }));

/** What has to be asked again after something was done to a run. */
export const staleRuns = [["runs"], ["queue"], ["run"], ["jobs"]];
