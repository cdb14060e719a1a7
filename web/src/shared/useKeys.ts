import { useEffect, useRef } from "react";

/** useKeys does what single letters stand for, wherever nobody types; without any it listens to none. */
export function useKeys(keys: Record<string, () => void>) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      const typing = e.target instanceof Element && e.target.closest("input, textarea, [contenteditable], .ant-modal");
      if (!typing && !e.ctrlKey && !e.metaKey && !e.altKey) latest.current[e.key.toLowerCase()]?.();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, []);
}
