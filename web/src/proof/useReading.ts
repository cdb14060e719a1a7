import { useCallback, useRef, useState } from "react";
import type { Schemas } from "../api/http";
import { readPixel, type Look } from "../api/runs";

/** useReading asks what lies under the pointer, at most one question at a time. */
export function useReading(run: number, pass: string, look: Look, amount: number) {
  const [value, setValue] = useState<Schemas["Reading"] | null>(null);
  const want = useRef<{ x: number; y: number } | null>(null);
  const busy = useRef(false);
  const ask = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    while (want.current) {
      const p = want.current;
      want.current = null;
      // Outside the computed part there is nothing to read.
      setValue(await readPixel(run, pass, p.x, p.y, look, amount).catch(() => null));
    }
    busy.current = false;
  }, [run, pass, look, amount]);
  const point = useCallback(
    (p: { x: number; y: number } | null) => {
      want.current = p;
      if (p) void ask();
      else setValue(null);
    },
    [ask],
  );
  return { value, point };
}
