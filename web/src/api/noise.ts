import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./http";
import { lookOf, type RunDetail } from "./runs";

export type NoiseMap = Schemas["NoiseMap"];
export type Course = Schemas["Course"];

/** Of a frame: left, top, right and bottom in pixels. */
export type Area = [number, number, number, number];

/** How often what changes while a run goes is asked for, in milliseconds. */
const whileGoing = 3000;

/** useNoiseMap is the noise of every tile of a run's picture, asked again while it goes. */
export const useNoiseMap = (run: RunDetail, going: boolean) =>
  useQuery({
    queryKey: ["noise", run.run.id, going, run.run.samples],
    placeholderData: keepPreviousData,
    refetchInterval: going && whileGoing,
    queryFn: ({ signal }) => take(api.GET("/api/runs/{id}/noise", { params: { path: { id: run.run.id } }, signal })),
  });

/** useCourse is how the noise of a run fell, asked again while it goes. */
export const useCourse = (run: RunDetail, going: boolean) =>
  useQuery({
    queryKey: ["course", run.run.id, going],
    placeholderData: keepPreviousData,
    refetchInterval: going && whileGoing,
    queryFn: ({ signal }) => take(api.GET("/api/runs/{id}/course", { params: { path: { id: run.run.id } }, signal })),
  });

const query = (area: Area | null) => ({
  left: area?.[0] ?? 0,
  top: area?.[1] ?? 0,
  right: area?.[2] ?? 0,
  bottom: area?.[3] ?? 0,
});

/** useBlame is what the noise of a run's picture, or of an area of it, comes from; of one that goes, asked anew whenever all of it is finer. */
export const useBlame = (run: RunDetail, area: Area | null) =>
  useQuery({
    queryKey: ["blame", run.run.id, run.run.least, area],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      take(
        api.GET("/api/runs/{id}/blame", {
          params: { path: { id: run.run.id }, query: { ...lookOf(run), ...query(area) } },
          signal,
        }),
      ),
  });

/** Further is what a picture goes on to. */
export type Further = { noise: number; most: number; area: Area | null };

/** useFurther is what it would take to go on from a run's picture. */
export const useFurther = (id: number, to: Further, enabled: boolean) =>
  useQuery({
    queryKey: ["further", id, to],
    enabled,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      take(
        api.GET("/api/runs/{id}/further", {
          params: { path: { id }, query: { noise: to.noise, most: to.most, ...query(to.area) } },
          signal,
        }),
      ),
  });

export const goOn = ({ id, to }: { id: number; to: Further }) =>
  take(
    api.POST("/api/runs/{id}/further", {
      params: { path: { id } },
      body: { noise: to.noise, most: to.most, area: to.area ?? [0, 0, 0, 0] },
    }),
  );
