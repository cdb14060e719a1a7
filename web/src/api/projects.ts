import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { api, take, type Schemas } from "./http";

export type Project = Schemas["Project"];
export type Person = Schemas["Person"];
export type Role = Person["role"];

/** What people of each role are called. */
export const roleWords: Record<Role, string> = { lead: "Lead", td: "TD", artist: "Artist", reviewer: "Reviewer" };

export const useMe = () => useQuery({ queryKey: ["me"], queryFn: () => take(api.GET("/api/me")), staleTime: Infinity });

export const useProjects = () => useQuery({ queryKey: ["projects"], queryFn: () => take(api.GET("/api/projects")) });

const useChosen = create<{ id: number }>()(persist(() => ({ id: 0 }), { name: "project" }));

/** chooseProject has the lists of this browser show another project. */
export const chooseProject = (id: number) => useChosen.setState({ id });

/** useOfProject has the lists show the project of what is looked at. */
export const useOfProject = (id: number | undefined) =>
  useEffect(() => {
    if (id !== undefined) chooseProject(id);
  }, [id]);

/** useProject is the project that lists show: the one chosen last, or the first there is. */
export function useProject(): Project | undefined {
  const { id } = useChosen();
  const all = useProjects().data ?? [];
  return all.find((p) => p.id === id) ?? all[0];
}

/** What somebody may do in a project, in the server's words. */
export type Act =
  | "answer in rounds"
  | "change scenes"
  | "change jobs"
  | "run jobs"
  | "change rounds"
  | "change projects"
  | "change the library";

/** useMay tells whether who acts may do something in a project; it is taken for so until it is known. */
export function useMay(project: number | undefined, act: Act): boolean {
  const here = useProjects().data?.find((p) => p.id === project);
  return here?.may.includes(act) ?? true;
}

export const usePeople = (project: number | undefined) =>
  useQuery({
    queryKey: ["people", project],
    enabled: project !== undefined,
    queryFn: () => take(api.GET("/api/projects/{id}/people", { params: { path: { id: project! } } })),
  });

export const makeProject = (name: string) => take(api.POST("/api/projects", { body: { name } }));
export const changeProject = ({ id, ...body }: { id: number; name?: string; putAway?: boolean }) =>
  take(api.PATCH("/api/projects/{id}", { params: { path: { id } }, body }));
export const addPerson = ({ id, ...body }: { id: number; name: string; role: Role }) =>
  take(api.POST("/api/projects/{id}/people", { params: { path: { id } }, body }));
export const setRole = ({ id, person, role }: { id: number; person: number; role: Role }) =>
  take(api.PUT("/api/projects/{id}/people/{person}/role", { params: { path: { id, person } }, body: { role } }));
export const removePerson = ({ id, person }: { id: number; person: number }) =>
  take(api.DELETE("/api/projects/{id}/people/{person}", { params: { path: { id, person } } }));
export const renameMe = (name: string) => take(api.PATCH("/api/me", { body: { name } }));
