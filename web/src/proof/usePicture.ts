import { useEffect, useRef, useState } from "react";
import { useLive } from "../api/live";
import { pictureURL, type RunDetail, type Seen } from "./api";

/**
 * usePicture is the address of a run's newest picture. While a run goes, the
 * next picture is fetched when the one before has come, so a slow line is
 * never flooded; the picture shown stays until the next is there.
 */
export function usePicture(run: RunDetail, pass: string, side: number, seen?: Seen): string | null {
  const id = run.run.id;
  const live = useLive((s) => s.events[id]);
  const version = live?.picture || `${run.run.state}-${run.run.samples.toFixed(1)}`;
  const has = run.run.samples > 0 || (live?.picture ?? 0) > 0;
  const want = has ? pictureURL(id, pass, side, version, seen) : null;
  const [shown, setShown] = useState<string | null>(null);
  const busy = useRef(false);
  const next = useRef<string | null>(want);
  const still = useRef(true);
  useEffect(() => {
    still.current = true;
    return () => {
      still.current = false;
    };
  }, []);
  useEffect(() => {
    next.current = want;
    const fetchNext = () => {
      const url = next.current;
      if (busy.current || !url) return;
      busy.current = true;
      const img = new Image();
      img.fetchPriority = "high"; // before any thumbnail
      img.onload = img.onerror = (e) => {
        busy.current = false;
        if (!still.current) return;
        if (typeof e !== "string" && e.type === "load") setShown(url);
        if (next.current !== url) fetchNext();
      };
      img.src = url;
    };
    fetchNext();
  }, [want]);
  return shown;
}
