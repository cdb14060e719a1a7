import { useEffect, useImperativeHandle, useRef, useState, type Ref } from "react";
import type { Schemas } from "../../api/http";
import { useLatest } from "../useLatest";
import { AreaCatcher, type Area } from "./AreaCatcher";
import { AskCatcher } from "./AskCatcher";
import { CropGuides } from "./CropGuides";
import { frameIn, placed } from "./frame";
import { FrameCatcher, type Drag } from "./FrameCatcher";
import { FrameGuides, type Region } from "./FrameGuides";
import { HeldPictures } from "./HeldPictures";
import { LightHandles, type Handles } from "./LightHandles";
import { LiveCanvas } from "./LiveCanvas";
import { LiveControls } from "./LiveControls";
import { isCurrent, useLivePicture, type LiveReading } from "./livePicture";
import { PartHandles, type PartHandlesOf } from "./PartHandles";
import { ReadOuts } from "./ReadOuts";
import { useClicks } from "./useClicks";
import { useDrawing } from "./useDrawing";
import { otherSurface, useWish, type Live } from "./useWish";
import bits from "../bits.module.css";
import styles from "./Viewer.module.css";

export type ViewerHandle = {
  camera: () => Schemas["Camera"];
  /** Looks through another camera. */
  put: (camera: Schemas["Camera"]) => void;
  /** Looks at a place from where the view is, near enough to see it. */
  show: (centre: number[], radius: number) => void;
};

/** What lies where somebody clicked: a part, and a point of the world; read asks what the live picture shows there. */
export type Answer = { part: number | null; point: number[] | null; read: () => Promise<LiveReading | null> };

type Props = {
  scene: Schemas["SceneBody"];
  camera: Schemas["Camera"];
  /** Identifies the camera: the view goes back to it when this changes. */
  cameraKey: string;
  width: number;
  height: number;
  /** Where the parts are, if not where the set-up has them. */
  pose?: (number[] | null)[] | undefined;
  /** The traced picture that lies over the frame whenever the view stands still. */
  live: Live;
  /** The live picture was kept, or why it could not be. */
  onKept?: (kept: Schemas["Kept"] | string) => void;
  /** Addresses of one or two pictures that are shown in place of the live one; two are wiped. */
  held?: string[];
  /** Part indices drawn in amber. */
  picked?: number[];
  /** Whether all others are drawn as a veil, so that they hide nothing. */
  through?: boolean;
  onPick?: (part: number | null, add: boolean) => void;
  onMoved?: () => void;
  /** The view came to rest, turned away from the camera it was given. */
  onTurned?: (camera: Schemas["Camera"]) => void;
  region?: Region;
  onRegion?: (r: Region) => void;
  /** Where the lens focuses, in percent of the frame. */
  focus?: { x: number; y: number } | undefined;
  /** Lights of the stage that can be dragged around the product. */
  handles?: Handles | undefined;
  /** What is picked can be moved, turned or resized by handles. */
  moving?: PartHandlesOf | undefined;
  /** Display grey of the clay that parts wear in the frame, by index; others wear their finish. */
  clad?: Map<number, number>;
  /** Takes the parts that an area of the picture shows, by their keys. */
  onArea?: (keys: string[]) => void;
  /** Parts that are not shown. */
  hidden?: number[];
  /** Where crops lie in a frame of so many pixels. */
  crops?: { list: Schemas["Cropped"][]; width: number; height: number };
  /** A question that the next click answers; null when it is given up. */
  asking?: { what: string; answer: (a: Answer | null) => void } | null;
  onFocus?: (x: number, y: number) => void;
  ref?: Ref<ViewerHandle>;
};

/** How often what is under the pointer is read, milliseconds. */
const readEvery = 80;

/** Viewer is a turnable view of a scene with guides that show the frame exactly, and the traced picture in it. */
export default function Viewer(p: Props) {
  const box = useRef<HTMLDivElement>(null);
  const latest = useLatest(p);
  const [turning, setTurning] = useState(false);
  const [area, setArea] = useState<Area | null>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [turned, setTurned] = useState<{ from: string; camera: Schemas["Camera"] } | null>(null);
  const picture = p.live.picture;
  const current = useLivePicture(picture, isCurrent);
  const readOuts = useLivePicture(picture, (s) => s.readOuts);
  const turn = (camera: Schemas["Camera"]) => {
    setTurned({ from: latest.current.cameraKey, camera });
    latest.current.onTurned?.(camera);
  };
  const traced = current && !turning && !p.through;
  const { drawing, size, state } = useDrawing(
    box,
    { ...p, aspect: p.width / p.height, over: traced },
    {
      start: () => {
        setTurning(true);
        latest.current.onMoved?.();
      },
      end: (camera) => {
        setTurning(false);
        turn(camera);
      },
      follows: () => Boolean(latest.current.handles || latest.current.moving),
    },
  );
  useImperativeHandle(
    p.ref,
    () => ({
      camera: () => drawing.current!.camera(),
      put: (camera) => {
        drawing.current!.look(camera, latest.current.scene);
        turn(camera);
      },
      show: (centre, radius) => drawing.current!.approach(centre, Math.max(radius, latest.current.scene.radius / 12)),
    }),
    [],
  );
  const f = frameIn(size.w, size.h, p.width / p.height);
  const place = placed(f);
  useWish(p, size.w > 0 ? f : null, turned?.from === p.cameraKey ? turned.camera : p.camera);
  useEffect(() => picture.change({ shown: traced }), [picture, traced]);
  const under = useRef(0);
  const inFrame = (e: React.PointerEvent) => {
    const b = box.current!.getBoundingClientRect();
    const c = (v: number) => Math.min(100, Math.max(0, v));
    return { x: c(((e.clientX - b.left - f.x) / f.w) * 100), y: c(((e.clientY - b.top - f.y) / f.h) * 100) };
  };
  const picks = p.onPick && !p.asking;
  useClicks(box, picks ? (x, y, add) => p.onPick!(drawing.current?.hit(x, y)?.part ?? null, add) : undefined);
  const held = p.held ?? [];
  const free = held.length === 0; // nothing is shown in place of the live picture
  const laid = drawing.current && free && size.w > 0 ? { drawing: drawing.current, size } : null;

  return (
    <div
      className={styles.viewer}
      ref={box}
      data-state={state}
      onPointerMove={(e) => {
        const at = Date.now();
        if (!traced || e.buttons !== 0 || at - under.current < readEvery) return;
        under.current = at;
        const q = inFrame(e);
        picture.read(Math.min(0.9999, q.x / 100), Math.min(0.9999, q.y / 100));
      }}
      onPointerLeave={picture.forget}
    >
      {state !== "ready" && (
        <div className={`${bits.empty} ${styles.wait}`}>{state === "loading" ? "Loading the scene" : state}</div>
      )}
      <LiveCanvas picture={picture} place={place} />
      {size.w > 0 && (
        <FrameGuides size={size} frame={f} dimmed={!traced} region={drag?.region ?? p.region} focus={p.focus} />
      )}
      {p.crops && size.w > 0 && (
        <div className={styles.crops} style={place}>
          <CropGuides crops={p.crops.list} width={p.crops.width} height={p.crops.height} />
        </div>
      )}
      {free && (
        <LiveControls
          picture={picture}
          other={otherSurface(p.live.ticket)}
          onKept={p.onKept}
          place={{ left: f.x, top: f.y + f.h + 5, width: f.w }}
        />
      )}
      {traced && readOuts && free && (
        <>
          <div className={styles.over} style={place}>
            <AreaCatcher area={area} pick={setArea} />
          </div>
          <div className={styles.corner} style={{ left: f.x, top: f.y + f.h }}>
            <ReadOuts picture={picture} area={area} take={p.onArea} />
          </div>
        </>
      )}
      {!free && <HeldPictures urls={held} place={place} aspect={p.width / p.height} />}
      {(p.region?.on || p.focus) && <FrameCatcher {...p} place={place} drag={drag} onDrag={setDrag} at={inFrame} />}
      {laid && p.handles && <LightHandles {...p.handles} {...laid} />}
      {laid && p.moving && !p.asking && <PartHandles {...p.moving} {...laid} />}
      {p.asking && (
        <AskCatcher
          what={p.asking.what}
          give={(x, y) => {
            const u = (x - f.x) / f.w;
            const v = (y - f.y) / f.h;
            const hit = drawing.current?.hit((x / size.w) * 2 - 1, 1 - (y / size.h) * 2);
            const within = traced && u >= 0 && u < 1 && v >= 0 && v < 1;
            const read = () => (within ? picture.readNewest(u, v) : Promise.resolve(null));
            p.asking!.answer({ part: hit?.part ?? null, point: hit?.point ?? null, read });
          }}
          stop={() => p.asking!.answer(null)}
        />
      )}
    </div>
  );
}
