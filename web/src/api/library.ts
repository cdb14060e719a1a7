import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";

export type Kind = "quality" | "clay" | "stage";

export const useLibrary = (kind: Kind) =>
  useQuery({
    queryKey: ["library", kind],
    queryFn: () => take(api.GET("/api/library/{kind}", { params: { path: { kind } } })),
  });

/** entryOf is the contents of a line of the library, as it is listed. */
export const entryOf = (e: Schemas["LibraryLine"]) =>
  take(
    api.GET("/api/library/{kind}/{key}/{version}", {
      params: { path: { kind: e.kind, key: e.key, version: e.version } },
    }),
  );

/** keepEntry keeps something under a name. */
export const keepEntry = ({ kind, ...body }: { kind: Kind; name: string; body: unknown }) =>
  take(api.POST("/api/library/{kind}", { params: { path: { kind } }, body }));
export const putEntryAway = ({ kind, key }: { kind: Kind; key: string }) =>
  take(api.DELETE("/api/library/{kind}/{key}", { params: { path: { kind, key } } }));
