import { QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Ticket = Schemas["Ticket"];
export type RunBody = Schemas["RunBody"];
export type SceneBody = Schemas["SceneBody"];
export type Fault = { path: string; message: string };

const api = createClient<paths>();

/** What the server said was wrong, in its words. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly faults: Fault[] = [],
  ) {
    super(message);
  }
}

type Problem = { detail?: string; title?: string; errors?: { location?: string; message?: string }[] | null };

export function problem(body: unknown, status: number): ApiError {
  const p = (body ?? {}) as Problem;
  const faults = (p.errors ?? []).map((e) => ({ path: e.location ?? "", message: e.message ?? "" }));
  return new ApiError(p.detail ?? p.title ?? `The server answered ${status}.`, status, faults);
}

async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch {
    throw new ApiError("The server does not answer. Is it running?", 0);
  }
  if (answer.error !== undefined || answer.data === undefined) {
    if (answer.response.ok) return undefined as T;
    throw problem(answer.error, answer.response.status);
  }
  return answer.data;
}

export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 5000, retry: 1, refetchOnWindowFocus: true } },
});

export const useSettings = () =>
  useQuery({ queryKey: ["settings"], queryFn: () => take(api.GET("/api/settings")), staleTime: Infinity });
export const useProjects = () => useQuery({ queryKey: ["projects"], queryFn: () => take(api.GET("/api/projects")) });
export const useScenes = () => useQuery({ queryKey: ["scenes"], queryFn: () => take(api.GET("/api/scenes")) });
export const useScene = (id: number | undefined) =>
  useQuery({
    queryKey: ["scene", id],
    enabled: id !== undefined,
    queryFn: () => take(api.GET("/api/scenes/{id}", { params: { path: { id: id! } } })),
  });
/** usePose is where a scene's parts and views are at a moment of an animation; nothing without one. */
export const usePose = (id: number | undefined, animation: string, moment: number) =>
  useQuery({
    queryKey: ["pose", id, animation, moment],
    enabled: id !== undefined && animation !== "",
    placeholderData: (old) => old,
    queryFn: () =>
      take(api.GET("/api/scenes/{id}/pose", { params: { path: { id: id! }, query: { animation, moment } } })),
  });
export const useSurrounds = () => useQuery({ queryKey: ["surrounds"], queryFn: () => take(api.GET("/api/surrounds")) });
export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => take(api.GET("/api/jobs")) });
export const useJob = (id: number) =>
  useQuery({ queryKey: ["job", id], queryFn: () => take(api.GET("/api/jobs/{id}", { params: { path: { id } } })) });
export const useOutlook = (id: number, version: number) =>
  useQuery({
    queryKey: ["outlook", id, version],
    placeholderData: (old) => old,
    queryFn: () => take(api.GET("/api/jobs/{id}/outlook", { params: { path: { id } } })),
  });
export const useRuns = (job?: number) =>
  useQuery({
    queryKey: ["runs", job ?? 0],
    queryFn: () => take(api.GET("/api/runs", { params: { query: job ? { job } : {} } })),
  });
export const useRun = (id: number | undefined) =>
  useQuery({
    queryKey: ["run", id],
    enabled: id !== undefined,
    queryFn: () => take(api.GET("/api/runs/{id}", { params: { path: { id: id! } } })),
  });

export type Look = { ev: number; display: "filmic" | "plain" };

export const readPixel = (id: number, pass: string, x: number, y: number, look: Look) =>
  take(api.GET("/api/runs/{id}/reading", { params: { path: { id }, query: { pass, x, y, ...look } } }));

export const pictureURL = (id: number, pass: string, look: Look, side: number, version: number | string) =>
  `/api/runs/${id}/picture/${encodeURIComponent(pass)}.png?ev=${look.ev}&display=${look.display}&side=${side}&v=${version}`;

export const saveTicket = (id: number, version: number, ticket: Ticket) =>
  take(api.PUT("/api/jobs/{id}/ticket", { params: { path: { id } }, body: { version, ticket } }));

/** useChange is a mutation after which the named queries are asked again. */
export function useChange<V, R>(call: (v: V) => Promise<R>, stale: unknown[][]) {
  const client = useQueryClient();
  return useMutation<R, ApiError, V>({
    mutationFn: call,
    onSettled: () => Promise.all(stale.map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
}

export const startRun = (id: number) => take(api.POST("/api/jobs/{id}/runs", { params: { path: { id } } }));
export const stopRun = (id: number) => take(api.POST("/api/runs/{id}/stop", { params: { path: { id } } }));
export const keepRun = (id: number) => take(api.POST("/api/runs/{id}/keep", { params: { path: { id } } }));
export const resumeRun = (id: number) => take(api.POST("/api/runs/{id}/resume", { params: { path: { id } } }));
export const createJob = (v: { scene: number; name: string; ticket?: Ticket }) =>
  take(api.POST("/api/jobs", { body: v }));
export const saveView = (v: { scene: number; name: string; camera: Schemas["Camera"] }) =>
  take(
    api.POST("/api/scenes/{id}/views", {
      params: { path: { id: v.scene } },
      body: { name: v.name, camera: v.camera },
    }),
  );
export const changeView = (v: { id: number; name?: string; locked?: boolean; camera?: Schemas["Camera"] }) => {
  const { id, ...body } = v;
  return take(api.PATCH("/api/views/{id}", { params: { path: { id } }, body }));
};
export const removeView = (id: number) => take(api.DELETE("/api/views/{id}", { params: { path: { id } } }));

/** upload sends files with their relative names; progress is the share sent. */
export function upload<T>(url: string, files: File[], progress: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    for (const f of files) form.append(f.webkitRelativePath || f.name, f, f.name);
    const x = new XMLHttpRequest();
    x.open("POST", url);
    x.responseType = "json";
    x.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total);
    x.onload = () => (x.status < 300 ? resolve(x.response as T) : reject(problem(x.response, x.status)));
    x.onerror = () => reject(new ApiError("The upload broke off; send the files again.", 0));
    x.send(form);
  });
}
