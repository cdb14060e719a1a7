import { useState } from "react";
import type { Schemas } from "../api/http";
import type { SceneBody } from "../api/scenes";

type Camera = Schemas["Camera"];

/** What a scene without any view is seen by. */
const noView: Camera = { matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 5], yfov: 0.3, ymag: 0 };

/** useSeen is what a scene is seen by: a saved view, or where that was turned to. */
export function useSeen(scene: SceneBody | undefined) {
  const [view, setView] = useState<number | null>(null);
  const [moved, setMoved] = useState(0); // counts going back to the saved view
  const [off, setOff] = useState(false); // turned away from the saved view
  const [turned, setTurned] = useState<Camera | null>(null); // where it came to rest then
  const shown = scene?.views.find((v) => v.id === view) ?? scene?.views[0];
  const camera = shown?.camera ?? noView;
  const back = () => {
    setMoved(moved + 1);
    setOff(false);
    setTurned(null);
  };
  return {
    shown,
    camera,
    /** The camera that is looked through. */
    seen: (off && turned) || camera,
    off,
    back,
    choose: (v: Schemas["View"]) => {
      setView(v.id);
      back();
    },
    /** Changes whenever the view is to go back to the camera. */
    key: `${shown?.id ?? 0}:${moved}:${JSON.stringify(scene?.setup.file)}`,
    onMoved: () => setOff(true),
    onTurned: setTurned,
  };
}
