import { useEffect, useRef, useState } from "react";
import { useLive } from "../../api/live";
import { pictureURL, type RunDetail, type Seen } from "../../api/runs";

/** Shown is a picture that has come: of a pass of a run. */
export type Shown = { url: string; run: number; pass: string };

/**
 * usePicture is a run's newest picture. While a run goes, the next picture is
 * fetched when the one before has come, so a slow line is never flooded; the
 * picture shown stays until the next is there, of another pass, too. lost tells
 * that the newest could not be had.
 */
export function usePicture(
  run: RunDetail,
  pass: string,
  side: number,
  seen?: Seen,
): { shown: Shown | null; lost: boolean } {
  const id = run.run.id;
  const live = useLive((s) => s.runs[id]);
  const version = live?.picture || `${run.run.state}-${run.run.samples.toFixed(1)}`;
  const has = run.run.samples > 0 || (live?.picture ?? 0) > 0;
  const want = has ? pictureURL(id, pass, side, version, seen) : null;
  const [shown, setShown] = useState<Shown | null>(null);
  const [lost, setLost] = useState<string | null>(null);
  const coming = useRef<Shown | null>(null);
  const next = useRef<Shown | null>(null);
  const still = useRef(true);
  useEffect(() => {
    still.current = true;
    return () => {
      still.current = false;
    };
  }, []);
  useEffect(() => {
    next.current = want ? { url: want, run: id, pass } : null;
    const fetchNext = () => {
      const one = next.current;
      // What comes of another pass is not waited for.
      if (!one || (coming.current?.run === one.run && coming.current.pass === one.pass)) return;
      coming.current = one;
      const img = new Image();
      img.fetchPriority = "high"; // before any thumbnail
      img.onload = img.onerror = (e) => {
        if (!still.current || coming.current !== one) return;
        coming.current = null;
        const came = typeof e !== "string" && e.type === "load";
        if (came) setShown(one);
        else setLost(one.url);
        if (next.current?.url !== one.url) fetchNext();
      };
      img.src = one.url;
    };
    fetchNext();
  }, [want, id, pass]);
  return { shown, lost: want !== null && lost === want && shown?.url !== want };
}
