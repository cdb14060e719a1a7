import { useRef } from "react";
import type { Schemas } from "../api/http";
import { moveParts, type SceneBody } from "../api/scenes";
import { ofDrag } from "../shared/editor";
import { changeOf, type Bench, type Change } from "./useBench";

/**
 * useDragged moves parts as one while a handle is dragged: the server works out the
 * changes, one question at a time, always of where the handle is by then.
 */
export function useDragged(scene: SceneBody | undefined, bench: Bench, picked: number[]) {
  const from = useRef<{ parts: number[]; changes: Change[]; what: string } | null>(null);
  const next = useRef<Schemas["Together"] | null>(null);
  const busy = useRef(false);
  const go = async () => {
    busy.current = true;
    try {
      while (next.current && from.current) {
        const { parts, changes, what } = from.current;
        const by = next.current;
        next.current = null;
        const moved = (await moveParts(scene!.scene.id, changes, by)) ?? [];
        // Where they are only: anything else may have changed meanwhile.
        bench.put(
          (now) => ({
            parts: moved.map(({ shift, turn, scale }, k) => ({
              ...changeOf(now, scene!, parts[k]!),
              shift,
              turn,
              scale,
            })),
          }),
          what,
        );
      }
    } finally {
      next.current = null;
      busy.current = false;
    }
  };
  return {
    onBegin: () => {
      next.current = null;
      from.current = { parts: picked, changes: picked.map((i) => bench.of(i)), what: `${ofDrag}${Date.now()}` };
    },
    onDrag: (by: Schemas["Together"]) => {
      next.current = by;
      if (!busy.current) bench.awaits(go());
    },
  };
}

export type Dragged = ReturnType<typeof useDragged>;
