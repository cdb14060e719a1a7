import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";
import { useProject } from "./projects";

export type Kind = "quality" | "clay" | "stage";

/** useLibrary is what the studio and the project that is looked at keep of a kind. */
export function useLibrary(kind: Kind) {
  const project = useProject()?.id ?? 0;
  return useQuery({
    queryKey: ["library", kind, project],
    queryFn: () => take(api.GET("/api/library/{kind}", { params: { path: { kind }, query: { project } } })),
  });
}

/** entryOf is the contents of a line of the library, as it is listed. */
export const entryOf = (e: Schemas["LibraryLine"]) =>
  take(
    api.GET("/api/library/{kind}/{key}/{version}", {
      params: { path: { kind: e.kind, key: e.key, version: e.version } },
    }),
  );

/** keepEntry keeps something under a name. */
export const keepEntry = ({ kind, ...body }: { kind: Kind; name: string; body: unknown; project: number }) =>
  take(api.POST("/api/library/{kind}", { params: { path: { kind } }, body }));
export const putEntryAway = ({ kind, key }: { kind: Kind; key: string }) =>
  take(api.DELETE("/api/library/{kind}/{key}", { params: { path: { kind, key } } }));
