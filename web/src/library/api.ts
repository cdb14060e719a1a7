import { useQuery } from "@tanstack/react-query";
import { api, take } from "../api/http";

export type Kind = "quality" | "clay";

export const useLibrary = (kind: Kind) =>
  useQuery({
    queryKey: ["library", kind],
    queryFn: () => take(api.GET("/api/library/{kind}", { params: { path: { kind } } })),
  });

export const keepEntry = ({ kind, name, body }: { kind: Kind; name: string; body: unknown }) =>
  take(api.POST("/api/library/{kind}", { params: { path: { kind } }, body: { name, body } }));
export const putEntryAway = ({ kind, key }: { kind: Kind; key: string }) =>
  take(api.DELETE("/api/library/{kind}/{key}", { params: { path: { kind, key } } }));
