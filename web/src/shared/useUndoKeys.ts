import { useEffect, useRef } from "react";

/** useUndoKeys has Ctrl+Z take back the last change of a page, and with Shift do it again. */
export function useUndoKeys(undo: () => void, redo: () => void) {
  const latest = useRef({ undo, redo });
  latest.current = { undo, redo };
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        (e.shiftKey ? latest.current.redo : latest.current.undo)();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
}
