import { App } from "antd";
import { lazy, Suspense, useState, type Ref } from "react";
import { queryClient, type Schemas } from "../api/http";
import type { SceneBody } from "../api/scenes";
import { KeptStrip } from "../shared/viewer/KeptStrip";
import { LiveLine } from "../shared/viewer/LiveLine";
import { LivePicture } from "../shared/viewer/livePicture";
import type { HandleMode } from "../shared/viewer/PartHandles";
import type { Answer, ViewerHandle } from "../shared/viewer/Viewer";
import { focalOf } from "./FrameRows";
import type { Bench } from "./useBench";
import type { Dragged } from "./useDragged";
import bits from "../shared/bits.module.css";
import styles from "./ScenePage.module.css";

const Viewer = lazy(() => import("../shared/viewer/Viewer"));

type Props = {
  scene: SceneBody;
  bench: Bench;
  dragged: Dragged;
  ref: Ref<ViewerHandle>;
  view: Schemas["View"] | undefined;
  camera: Schemas["Camera"];
  /** The camera that is looked through, turned or not. */
  seen: Schemas["Camera"];
  cameraKey: string;
  /** Width over height of the frame. */
  shape: number;
  /** The view is turned away from the saved one. */
  off: boolean;
  picked: number[];
  onPick: (parts: number[]) => void;
  through: boolean;
  hidden: number[];
  handle: HandleMode | "none";
  /** A variant that the live picture shows. */
  variant: string;
  /** Lights that do not shine in it. */
  dark: string[];
  /** Lights of the stage have handles; those that are picked. */
  lights: number[] | null;
  onLights: (lights: number[]) => void;
  asking: { what: string; answer: (a: Answer | null) => void } | null;
  onMoved: () => void;
  onTurned: (c: Schemas["Camera"]) => void;
};

/** SceneView is the scene as it stands, turnable, and traced while it stands still. */
export function SceneView(p: Props) {
  const { scene: s, bench, picked, variant } = p;
  const [picture] = useState(() => new LivePicture());
  const [held, setHeld] = useState<string[]>([]); // kept pictures in place of the live one
  const { message } = App.useApp();
  const pick = (part: number | null, add: boolean) => {
    if (part === null) return p.onPick([]);
    if (s.parts[part]?.staged) return; // it is changed on the stage
    if (!add) return p.onPick([part]);
    p.onPick(picked.includes(part) ? picked.filter((i) => i !== part) : [...picked, part]);
  };
  return (
    <section className={styles.middle} aria-label="Turnable view">
      <Suspense fallback={<div className={bits.empty}>Opening the turnable view</div>}>
        <Viewer
          ref={p.ref}
          scene={s}
          camera={p.camera}
          cameraKey={p.cameraKey}
          width={p.shape}
          height={1}
          picked={picked}
          through={p.through}
          live={{ picture, dark: p.dark, variant }}
          asking={p.asking}
          hidden={p.hidden}
          moving={
            p.handle === "none" || picked.length === 0 ? undefined : { mode: p.handle, parts: picked, ...p.dragged }
          }
          held={held}
          onKept={(k) => {
            if (typeof k === "string") return void message.error(k);
            void queryClient.invalidateQueries({ queryKey: ["kept", s.scene.id] });
          }}
          handles={p.lights && bench.stage ? handlesOf(s, bench, bench.stage, p.lights, p.onLights) : undefined}
          onPick={pick}
          onMoved={p.onMoved}
          onTurned={p.onTurned}
        />
      </Suspense>
      <div className={`${bits.slug} ${bits.still} mono`}>
        <div>
          {p.view ? p.view.name : "no saved view"}
          {p.off && ", turned"} · {focalOf(p.seen.yfov).toFixed(0)} mm
          {held.length > 0 ? (
            ` · kept ${held.length === 1 ? "picture" : "pictures, compared"}, not live`
          ) : (
            <>
              {variant && ` · ${variant}`} · <LiveLine picture={picture} other="clay" without="shaded, not rendered" />
            </>
          )}
        </div>
      </div>
      <KeptStrip scene={s.scene.id} again={bench.again} held={held} onHeld={setHeld} />
    </section>
  );
}

/** handlesOf are the lights of a stage as they can be dragged around the product. */
function handlesOf(
  s: SceneBody,
  bench: Bench,
  stage: Schemas["Stage"],
  picked: number[],
  onLights: (lights: number[]) => void,
) {
  const { x, y, z } = stage.middle;
  return {
    middle: [x / 1000, y / 1000, z / 1000],
    lights: stage.lights.flatMap((l, i) => {
      const lit = s.lit[i];
      return lit ? [{ name: l.name, at: lit.at, aim: lit.aim, on: l.on, picked: picked.includes(i) }] : [];
    }),
    onPick: (i: number, add: boolean) => onLights(add ? [...new Set([...picked, i])] : [i]),
    onTurn: (i: number, direction: number, height: number) =>
      bench.put(
        { stage: { ...stage, lights: stage.lights.map((l, k) => (k === i ? { ...l, direction, height } : l)) } },
        `turn ${i}`,
      ),
  };
}
