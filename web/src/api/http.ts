import { QueryCache, QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Ticket = Schemas["Ticket"];
export type Fault = { path: string; message: string };

export const api = createClient<paths>();

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

function problem(body: unknown, status: number): ApiError {
  const p = (body ?? {}) as Problem;
  const faults = (p.errors ?? []).map((e) => ({ path: e.location ?? "", message: e.message ?? "" }));
  return new ApiError(p.detail ?? p.title ?? `The server answered ${status}.`, status, faults);
}

/** take waits for an answer and throws what is wrong as an ApiError. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
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

/** A session that has ended shows by whatever is asked next; who acts is asked anew then. */
const queryCache = new QueryCache({
  onError: (e, query) => {
    if (e instanceof ApiError && e.status === 401 && query.queryKey[0] !== "me")
      void queryClient.resetQueries({ queryKey: ["me"] });
  },
});

export const queryClient: QueryClient = new QueryClient({
  queryCache,
  defaultOptions: {
    queries: {
      staleTime: 5000,
      retry: (n, e) => n < 1 && !(e instanceof ApiError && e.status === 401),
      refetchOnWindowFocus: true,
    },
  },
});

/** useChange is a mutation after which the named queries are asked again. */
export function useChange<V, R>(call: (v: V) => Promise<R>, stale: unknown[][]) {
  const client = useQueryClient();
  return useMutation<R, ApiError, V>({
    mutationFn: call,
    onSettled: () => Promise.all(stale.map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
}

/** upload sends files with their relative names; progress is the share sent. Aborted, nothing is kept of them. */
export function upload<T>(
  url: string,
  files: File[],
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    for (const f of files) form.append(f.webkitRelativePath || f.name, f, f.name);
    const x = new XMLHttpRequest();
    x.open("POST", url);
    x.responseType = "json";
    x.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total);
    x.onload = () => (x.status < 300 ? resolve(x.response as T) : reject(problem(x.response, x.status)));
    x.onabort = () => reject(new ApiError("Stopped; nothing was kept.", 0));
    signal?.addEventListener("abort", () => x.abort());
    x.onerror = () => reject(new ApiError("The upload broke off; send the files again.", 0));
    x.send(form);
  });
}
