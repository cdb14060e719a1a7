import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, take, type Schemas, type Ticket } from "./http";

export type Outlook = Schemas["Outlook"];
export type Forecast = Schemas["Forecast"];
export type JobLine = Schemas["JobsLine"];

export const useSettings = () =>
  useQuery({ queryKey: ["settings"], queryFn: () => take(api.GET("/api/settings")), staleTime: Infinity });

/** useJobs are pages of jobs, last changed first. */
export const useJobs = (project: number | undefined, putAway = false, scene = 0) =>
  useInfiniteQuery({
    queryKey: ["jobs", project, putAway, scene],
    enabled: project !== undefined,
    initialPageParam: "",
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/jobs", { params: { query: { project, putAway, scene, after: pageParam } } })),
    getNextPageParam: (last) => last.next || undefined,
  });

export const useJob = (id: number) =>
  useQuery({ queryKey: ["job", id], queryFn: () => take(api.GET("/api/jobs/{id}", { params: { path: { id } } })) });

export const useOutlook = (id: number, version: number) =>
  useQuery({
    queryKey: ["outlook", id, version],
    enabled: version > 0,
    placeholderData: (old) => old,
    queryFn: () => take(api.GET("/api/jobs/{id}/outlook", { params: { path: { id } } })),
  });

/** useJobPreflight is what was found of a job's scene as its ticket would render it. */
export const useJobPreflight = (id: number, version: number, setup: number) =>
  useQuery<Schemas["Report"]>({
    queryKey: ["job preflight", id, version, setup],
    enabled: version > 0,
    staleTime: Infinity,
    placeholderData: (old) => old,
    queryFn: ({ signal }) => take(api.GET("/api/jobs/{id}/preflight", { params: { path: { id } }, signal })),
  });

/** useBlocked is what light a job's clay would take from what is seen. */
export const useBlocked = (id: number, version: number, setup: number, clay: boolean) =>
  useQuery<Schemas["Blocked"]>({
    queryKey: ["blocked light", id, version, setup],
    enabled: version > 0 && clay,
    staleTime: Infinity,
    placeholderData: (old) => old,
    queryFn: ({ signal }) => take(api.GET("/api/jobs/{id}/blocked", { params: { path: { id } }, signal })),
  });

/** useForecast is what a run of a job would take. A change of the ticket drops what is being measured. */
export const useForecast = (id: number, version: number, setup: number, can: boolean) =>
  useQuery<Forecast>({
    queryKey: ["forecast", id, version, setup],
    enabled: version > 0 && can,
    placeholderData: (old) => old,
    // What waits before it, and how earlier runs turned out, changes meanwhile; what was measured is kept.
    refetchInterval: 30_000,
    queryFn: ({ signal }) => take(api.GET("/api/jobs/{id}/forecast", { params: { path: { id } }, signal })),
  });

/** useWithin is what can be had of a job by a time, which secondsOf tells in seconds from now whenever it is asked. */
export const useWithin = (id: number, version: number, by: string, secondsOf: (() => number) | undefined) =>
  useQuery<Forecast>({
    queryKey: ["forecast", id, version, "within", by],
    enabled: secondsOf !== undefined,
    placeholderData: (old) => old,
    refetchInterval: 30_000,
    queryFn: ({ signal }) =>
      take(api.GET("/api/jobs/{id}/forecast", { params: { path: { id }, query: { within: secondsOf!() } }, signal })),
  });

export const saveTicket = (id: number, version: number, ticket: Ticket) =>
  take(api.PUT("/api/jobs/{id}/ticket", { params: { path: { id } }, body: { version, ticket } }));
export const compareTicket = (id: number, ticket: Ticket, base: Ticket) =>
  take(api.POST("/api/jobs/{id}/compare", { params: { path: { id } }, body: { ticket, base } }));
/** useDifferences is what the ticket of one run of a job says otherwise than that of another, in words. */
export const useDifferences = (
  id: number,
  one: { run: number; ticket: Ticket },
  base: { run: number; ticket: Ticket },
) =>
  useQuery({
    queryKey: ["differences", id, one.run, base.run],
    staleTime: Infinity,
    queryFn: async () => (await compareTicket(id, one.ticket, base.ticket)).mine,
  });
export const startRun = ({ id, version }: { id: number; version: number }) =>
  take(api.POST("/api/jobs/{id}/runs", { params: { path: { id } }, body: { version } }));
export const createJob = (v: { scene: number; name: string; ticket?: Ticket }) =>
  take(api.POST("/api/jobs", { body: v }));
/** makeVariants makes a job like one for each of some variants. */
export const makeVariants = ({ id, ...body }: { id: number; variants: string[]; run: boolean }) =>
  take(api.POST("/api/jobs/{id}/variants", { params: { path: { id } }, body }));
export const copyJob = ({ id, name }: { id: number; name: string }) =>
  take(api.POST("/api/jobs/{id}/copy", { params: { path: { id } }, body: { name } }));
export const changeJob = ({ id, ...body }: { id: number; name?: string; putAway?: boolean }) =>
  take(api.PATCH("/api/jobs/{id}", { params: { path: { id } }, body }));
export const removeJob = ({ id, delivered }: { id: number; delivered: boolean }) =>
  take(api.DELETE("/api/jobs/{id}", { params: { path: { id }, query: { delivered } } }));
