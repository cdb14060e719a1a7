import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";

export type Link = Schemas["GuestLink"];
export type LinkTerms = Schemas["GuestTerms"];

/** useLinks are the links to a round, and when they were opened by whom. */
export const useLinks = (round: number) =>
  useQuery({
    queryKey: ["links", round],
    refetchInterval: 15000,
    queryFn: () => take(api.GET("/api/rounds/{id}/links", { params: { path: { id: round } } })),
  });

export const makeLink = ({ round, ...body }: { round: number } & LinkTerms) =>
  take(api.POST("/api/rounds/{id}/links", { params: { path: { id: round } }, body }));
export const revokeLink = (id: number) => take(api.DELETE("/api/links/{id}", { params: { path: { id } } }));

/** addressOf is what is sent to whom a link is for. What is behind # is not told to servers on the way. */
export const addressOf = (token: string) => `${location.origin}/look#${token}`;
