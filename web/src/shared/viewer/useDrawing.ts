import { useEffect, useRef, useState, type RefObject } from "react";
import type { Schemas } from "../../api/http";
import { useLatest } from "../useLatest";
import { Drawing } from "./drawing";
import { frameIn } from "./frame";
import { loadShape } from "./shape";

type Shown = {
  scene: Schemas["SceneBody"];
  camera: Schemas["Camera"];
  cameraKey: string;
  aspect: number;
  pose?: (number[] | null)[] | undefined;
  picked?: number[] | undefined;
  through?: boolean | undefined;
  clad?: Map<number, number> | undefined;
  hidden?: number[] | undefined;
  /** A traced picture lies under the drawing. */
  over: boolean;
};

type Events = {
  start: () => void;
  /** The view came to rest. */
  end: (camera: Schemas["Camera"]) => void;
  /** What lies over the view follows it: it is told of each drawing. */
  follows: () => boolean;
};

const none: number[] = [];
const bare = new Map<number, number>();

/** useDrawing draws a scene into a box; state is "ready", "loading", or why nothing is drawn. */
export function useDrawing(box: RefObject<HTMLDivElement | null>, s: Shown, events: Events) {
  const drawing = useRef<Drawing | null>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  const [state, setState] = useState<"loading" | "ready" | string>("loading");
  const [shaped, setShaped] = useState(0); // counts shapes that came
  const [, setDrawn] = useState(0);
  const latest = useLatest(events);

  useEffect(() => {
    const el = box.current!;
    let made: Drawing;
    try {
      made = new Drawing(el, {
        start: () => latest.current.start(),
        end: () => latest.current.end(drawing.current!.camera()),
        drawn: () => latest.current.follows() && setDrawn((n) => n + 1),
      });
    } catch {
      setState("This browser has no WebGL, so the turnable view cannot be shown. Rendering works without it.");
      return;
    }
    drawing.current = made;
    const resized = new ResizeObserver(() => setSize({ w: el.clientWidth, h: el.clientHeight }));
    resized.observe(el);
    return () => {
      resized.disconnect();
      made.dispose();
      drawing.current = null;
    };
  }, [box, latest]);

  const { scene, cameraKey, aspect, over } = s;
  const parted = JSON.stringify(scene.setup.sets);
  useEffect(() => {
    const stop = new AbortController();
    loadShape(scene, stop.signal)
      .then((g) => {
        if (stop.signal.aborted) return;
        drawing.current?.show(g, scene.radius);
        setState("ready");
        setShaped((n) => n + 1);
      })
      .catch((e: unknown) => stop.signal.aborted || setState(String(e instanceof Error ? e.message : e)));
    return () => stop.abort();
    // The shape belongs to the scene's content, and to what is told apart of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [scene.scene.sha256, parted]);

  useEffect(() => {
    drawing.current?.look(s.camera, scene);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [cameraKey, scene.scene.id]);
  useEffect(() => {
    if (size.w) drawing.current?.resize(size.w, size.h, frameIn(size.w, size.h, aspect));
  }, [size, aspect, cameraKey]);
  const { pose, picked = none, through = false, clad = bare, hidden = none } = s;
  useEffect(() => drawing.current?.furnish(scene.stands), [scene.stands, state, shaped]);
  useEffect(() => drawing.current?.highlight(picked, through), [picked, through, state, shaped]);
  useEffect(() => drawing.current?.wearing(scene.finishes), [scene.finishes, state, shaped]);
  useEffect(() => drawing.current?.clad(clad), [clad, state, shaped]);
  useEffect(() => {
    drawing.current?.hide(hidden);
    drawing.current?.stand(scene.parts, pose);
  }, [scene.parts, pose, hidden, state, shaped]);
  useEffect(() => drawing.current?.over(over), [over, state]);
  return { drawing, size, state };
}
