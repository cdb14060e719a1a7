import { useEffect, type RefObject } from "react";
import { useLatest } from "../useLatest";

/**
 * useClicks tells clicks on a view from the ends of turns: where, from -1 to 1 to the right
 * and upwards, and whether what is clicked is to be added.
 */
export function useClicks(
  box: RefObject<HTMLElement | null>,
  pick: ((x: number, y: number, add: boolean) => void) | undefined,
) {
  const latest = useLatest(pick);
  useEffect(() => {
    const el = box.current!;
    let from: { x: number; y: number } | null = null;
    const down = (e: PointerEvent) => {
      from = (e.target as Element).closest("button") ? null : { x: e.clientX, y: e.clientY };
    };
    const up = (e: PointerEvent) => {
      if (from && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 4) {
        const b = el.getBoundingClientRect();
        latest.current?.(
          ((e.clientX - b.left) / b.width) * 2 - 1,
          1 - ((e.clientY - b.top) / b.height) * 2,
          e.shiftKey || e.ctrlKey || e.metaKey,
        );
      }
      from = null;
    };
    el.addEventListener("pointerdown", down);
    el.addEventListener("pointerup", up);
    return () => {
      el.removeEventListener("pointerdown", down);
      el.removeEventListener("pointerup", up);
    };
  }, [box, latest]);
}
