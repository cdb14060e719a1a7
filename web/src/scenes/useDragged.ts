import { useRef } from "react";
import type { Schemas } from "../api/http";
import { moveParts, type SceneBody } from "../api/scenes";
import { ofDrag } from "../shared/editor";
import { changeOf, type Bench, type Change } from "./useBench";

/** A drag of parts as one: from what is changed of them when its turn comes, by what is not worked out yet. */
type Drag = { parts: number[]; what: string; from: Change[] | null; by: Schemas["Together"] | null };

/**
 * useDragged moves parts as one while a handle is dragged: the server works out the
 * changes, one question at a time, always of where the handle is by then. A drag that
 * begins before the one before is answered waits for it.
 */
export function useDragged(scene: SceneBody | undefined, bench: Bench, picked: number[]) {
  const drags = useRef<Drag[]>([]);
  const busy = useRef(false);
  const go = async () => {
    busy.current = true;
    try {
      for (let d = drags.current[0]; d; d = drags.current[0]) {
        const { parts, what, by } = d;
        if (!by) {
          if (drags.current.length === 1) return; // it may go on
          drags.current.shift();
          continue;
        }
        d.from ??= parts.map(bench.soFar);
        d.by = null;
        const moved = (await moveParts(scene!.scene.id, d.from, by)) ?? [];
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
    } catch (e) {
      drags.current = [];
      throw e;
    } finally {
      busy.current = false;
    }
  };
  return {
    onBegin: () => {
      drags.current.push({ parts: picked, what: `${ofDrag}${Date.now()}`, from: null, by: null });
    },
    onDrag: (by: Schemas["Together"]) => {
      const d = drags.current.at(-1);
      if (!d) return; // what it belongs to could not be done
      d.by = by;
      if (!busy.current) bench.awaits(go());
    },
  };
}

export type Dragged = ReturnType<typeof useDragged>;
