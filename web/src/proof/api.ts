import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "../api/http";

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

export const useRun = (id: number | undefined) =>
  useQuery({
    queryKey: ["run", id],
    enabled: id !== undefined,
    placeholderData: (old) => (old?.run.id === id ? old : undefined),
    queryFn: () => take(api.GET("/api/runs/{id}", { params: { path: { id: id! } } })),
  });

export const useQueue = () =>
  useQuery({ queryKey: ["queue"], refetchInterval: 2000, queryFn: () => take(api.GET("/api/queue")) });

/** How a run's ticket says its picture is looked at. */
export const lookOf = (r: RunDetail): Look => ({
  ev: r.resolved.ticket.view.exposure,
  display: r.resolved.ticket.view.display as Look["display"],
});

export const readPixel = (id: number, pass: string, x: number, y: number, look: Look) =>
  take(api.GET("/api/runs/{id}/reading", { params: { path: { id }, query: { pass, x, y, ...look } } }));

/** pictureURL is the address of a pass; without a look, as the run's ticket says. */
export const pictureURL = (id: number, pass: string, side: number, version: number | string, look?: Look) =>
  `/api/runs/${id}/picture/${encodeURIComponent(pass)}.png?side=${side}&v=${version}${look ? `&ev=${look.ev}&display=${look.display}` : ""}`;

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
