import { useEffect } from "react";
import { useLatest } from "./useLatest";

/** useKeys does what single letters stand for, wherever nobody types; without any it listens to none. */
export function useKeys(keys: Record<string, () => void>) {
  const latest = useLatest(keys);
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      const typing = e.target instanceof Element && e.target.closest("input, textarea, [contenteditable]");
      const asked = [...document.querySelectorAll("[role=dialog]")].some((d) => d.checkVisibility());
      if (!typing && !asked && !e.ctrlKey && !e.metaKey && !e.altKey) latest.current[e.key.toLowerCase()]?.();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, []);
}
