import { useEffect } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useLatest } from "./useLatest";

/** What a key does, wherever nobody types: a single letter, or a key by its name. */
export type Key = { key: string; says: string; act: () => void };

/** Whether single letters act; kept in the browser, as it belongs to the person at it. */
export const useLetters = create<{ on: boolean; set: (on: boolean) => void }>()(
  persist((set) => ({ on: true, set: (on) => set({ on }) }), { name: "single-letter keys" }),
);

/** What keys do on the page as it is, to be told. */
export const useKeyList = create<{ lists: Record<string, { key: string; says: string }[]> }>(() => ({ lists: {} }));

/** Widgets that take arrow keys themselves. */
const arrowTakers = "[role=slider], [role=combobox], [role=tab], [role=radiogroup], [role=tree], [role=listbox]";

let lists = 0;

/** useKeys does what keys stand for, for as long as the component is there; a dialog that is open rests them. */
export function useKeys(keys: Key[]) {
  const latest = useLatest(keys);
  const told = keys.map((k) => `${k.key}\t${k.says}`).join("\n");
  useEffect(() => {
    if (told === "") return;
    const own = `${++lists}`;
    const list = told.split("\n").map((line) => {
      const [key = "", says = ""] = line.split("\t");
      return { key, says };
    });
    useKeyList.setState((s) => ({ lists: { ...s.lists, [own]: list } }));
    return () => useKeyList.setState((s) => ({ lists: { ...s.lists, [own]: [] } }));
  }, [told]);
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const letter = e.key.length === 1;
      if (letter && !useLetters.getState().on) return;
      const at = e.target instanceof Element ? e.target : document.body;
      if (at.closest("input:not([type=radio]), textarea, [contenteditable]") || (!letter && at.closest(arrowTakers)))
        return;
      if ([...document.querySelectorAll("[role=dialog]")].some((d) => d.checkVisibility())) return;
      latest.current.find((k) => k.key === e.key.toLowerCase())?.act();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, [latest]);
}
