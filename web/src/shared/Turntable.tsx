import { useEffect, useImperativeHandle, useRef, useState, type Ref } from "react";
import { useLatest } from "./useLatest";
import type { Schemas, Ticket } from "../api/http";
import { tones } from "../app/theme";
import { CropGuides } from "./CropGuides";
import { Drawing } from "./drawing";
import { LightHandles, type Handles } from "./LightHandles";
import { PartHandles, type PartHandlesOf } from "./PartHandles";
import { AreaCatcher, ReadOuts, type Area } from "./ReadOuts";
import { loadShape } from "./shape";
import { useKeys } from "./useKeys";
import { useLivePicture, type LiveFrame, type LiveReading } from "./useLivePicture";
import { WipeHandle } from "./WipeHandle";
import { castWords, count } from "./words";
import bits from "./bits.module.css";
import styles from "./Turntable.module.css";

export type TurntableHandle = {
  camera: () => Schemas["Camera"];
  /** Looks through another camera. */
  put: (camera: Schemas["Camera"]) => void;
  /** Looks at a place from where the view is, near enough to see it. */
  show: (centre: number[], radius: number) => void;
};

/** What lies where somebody clicked: a part, a point of the world, and what the live picture shows there. */
export type Answer = { part: number | null; point: number[] | null; reading: LiveReading | null };

export type Region = { on: boolean; x: number; y: number; width: number; height: number };

type Props = {
  scene: Schemas["SceneBody"];
  camera: Schemas["Camera"];
  /** Identifies the camera: the view goes back to it when this changes. */
  cameraKey: string;
  width: number;
  height: number;
  /** Where the parts are, if not where the set-up has them. */
  pose?: (number[] | null)[] | undefined;
  /** A traced picture lies over the frame whenever the view stands still. */
  live?: { ticket?: Ticket | undefined; dark?: string[] | undefined; variant?: string } | undefined;
  /** The live picture was kept, or why it could not be. */
  onKept?: (kept: Schemas["Kept"] | string) => void;
  /** Addresses of one or two pictures that are shown in place of the live one; two are wiped. */
  held?: string[];
  /** Tells what the live picture is, for the line under it; nothing while there is none. */
  onLive?: (slug: string) => void;
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
  /** Says of a part, by its key, what it wears in the picture and why. */
  why?: (key: string) => string;
  /** Takes the parts that an area of the picture shows, by their keys. */
  onArea?: (keys: string[]) => void;
  /** Parts that are not shown. */
  hidden?: number[];
  /** Where crops lie in a frame of so many pixels. */
  crops?: { list: Schemas["Cropped"][]; width: number; height: number };
  /** A question that the next click answers; null when it is given up. */
  asking?: { what: string; answer: (a: Answer | null) => void } | null;
  onFocus?: (x: number, y: number) => void;
  ref?: Ref<TurntableHandle>;
};

const margin = 28;

/** Which key shows own finishes for clay, or clay for them. */
const swapKey = "c";
const surfaceWords = { own: "own finishes", clay: "clay" };

/** frameIn is the frame's rectangle, as large as fits. */
function frameIn(w: number, h: number, aspect: number) {
  const iw = Math.max(40, w - 2 * margin);
  const ih = Math.max(40, h - 2 * margin);
  const fw = Math.min(iw, ih * aspect);
  return { w: fw, h: fw / aspect, x: (w - fw) / 2, y: (h - fw / aspect) / 2 };
}

/** Turntable is a turnable view of a scene with guides that show the frame exactly. */
export default function Turntable(p: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  const [state, setState] = useState<"loading" | "ready" | string>("loading");
  const stage = useRef<Drawing | null>(null);
  const [, setDrawn] = useState(0); // what lies over the view follows it
  const latest = useLatest(p);
  const aspect = p.width / p.height;
  const parted = JSON.stringify(p.scene.setup.sets);
  const [shaped, setShaped] = useState(0); // counts shapes that came
  const [turning, setTurning] = useState(false);
  const [marked, setMarked] = useState(false);
  const [reading, setReading] = useState(false); // the read-outs are shown
  const [area, setArea] = useState<Area | null>(null);
  const [turned, setTurned] = useState<{ from: string; camera: Schemas["Camera"] } | null>(null);
  const turn = (camera: Schemas["Camera"]) => {
    setTurned({ from: latest.current.cameraKey, camera });
    latest.current.onTurned?.(camera);
  };

  useEffect(() => {
    const el = box.current!;
    let made: Drawing;
    try {
      made = new Drawing(el, {
        start: () => {
          setTurning(true);
          latest.current.onMoved?.();
        },
        end: () => {
          setTurning(false);
          turn(stage.current!.camera());
        },
        drawn: () => (latest.current.handles || latest.current.moving) && setDrawn((n) => n + 1),
      });
    } catch {
      setState("This browser has no WebGL, so the turnable view cannot be shown. Rendering works without it.");
      return;
    }
    stage.current = made;
    const look = new ResizeObserver(() => setSize({ w: el.clientWidth, h: el.clientHeight }));
    look.observe(el);
    return () => {
      look.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, []);

  useEffect(() => {
    const stop = new AbortController();
    loadShape(p.scene, stop.signal)
      .then((g) => {
        if (stop.signal.aborted) return;
        stage.current?.show(g, p.scene.radius);
        setState("ready");
        setShaped((n) => n + 1);
      })
      .catch((e: unknown) => stop.signal.aborted || setState(String(e instanceof Error ? e.message : e)));
    return () => stop.abort();
    // The shape belongs to the scene's content, and to what is told apart of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [p.scene.scene.sha256, parted]);

  useEffect(() => {
    stage.current?.look(p.camera, p.scene);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [p.cameraKey, p.scene.scene.id]);
  useEffect(() => {
    if (size.w) stage.current?.resize(size.w, size.h, frameIn(size.w, size.h, aspect).h);
  }, [size, aspect, p.cameraKey]);
  useEffect(() => stage.current?.furnish(p.scene.stands), [p.scene.stands, state, shaped]);
  useEffect(() => stage.current?.highlight(p.picked ?? [], p.through ?? false), [p.picked, p.through, state, shaped]);
  useEffect(() => stage.current?.wearing(p.scene.finishes), [p.scene.finishes, state, shaped]);
  useEffect(() => stage.current?.clad(p.clad ?? new Map()), [p.clad, state, shaped]);
  useEffect(() => {
    stage.current?.hide(p.hidden ?? []);
    stage.current?.stand(p.scene.parts, p.pose);
  }, [p.scene.parts, p.pose, p.hidden, state, shaped]);
  useImperativeHandle(
    p.ref,
    () => ({
      camera: () => stage.current!.camera(),
      put: (camera) => {
        stage.current!.look(camera, latest.current.scene);
        turn(camera);
      },
      show: (centre, radius) => stage.current!.approach(centre, Math.max(radius, latest.current.scene.radius / 12)),
    }),
    [],
  );

  const f = frameIn(size.w, size.h, aspect);
  const [swapped, setSwapped] = useState(false); // own finishes for clay, or clay for them
  const other = p.live?.ticket?.surface.mode === "clay" ? "own" : "clay";
  const swap = () => setSwapped((was) => !was);
  useKeys(p.live ? { [swapKey]: swap } : {});
  const dense = Math.min(2, window.devicePixelRatio);
  const live = useLivePicture(
    p.live && size.w > 0
      ? {
          scene: p.scene.scene.id,
          ticket: p.live.ticket,
          dark: p.live.dark,
          variant: p.live.variant || undefined,
          surface: swapped ? other : undefined,
          hidden: p.hidden?.length ? p.hidden.map((i) => p.scene.parts[i]!.key) : undefined,
          camera: turned?.from === p.cameraKey ? turned.camera : p.camera,
          width: Math.round(f.w * dense),
          height: Math.round(f.h * dense),
          stand: `${p.scene.setup.version}`,
        }
      : null,
    marked,
  );
  const traced = live.current && !turning && !p.through;
  useEffect(() => stage.current?.over(traced), [traced, state]);
  const shownNow = traced && reading ? `${live.frame!.number} ${live.frame!.scale} ${live.frame!.samples}` : "";
  const { measure } = live;
  useEffect(() => {
    if (shownNow && area) measure(area); // of every state of the picture anew
  }, [shownNow, area, measure]);
  const under = useRef(0);
  const shownIn = swapped ? `in ${surfaceWords[other]} · ` : "";
  const slug = traced ? shownIn + liveSlug(live.frame!, live.reading, swapped ? undefined : p.why) : live.wrong;
  const tellLive = p.onLive;
  useEffect(() => tellLive?.(slug), [slug, tellLive]);
  const [drag, setDrag] = useState<{ x: number; y: number; r: Region } | null>(null);
  const region = drag?.r ?? p.region;
  const inFrame = (e: React.PointerEvent) => {
    const b = box.current!.getBoundingClientRect();
    const c = (v: number) => Math.min(100, Math.max(0, v));
    return { x: c(((e.clientX - b.left - f.x) / f.w) * 100), y: c(((e.clientY - b.top - f.y) / f.h) * 100) };
  };
  const round = (v: number) => Math.round(v * 10) / 10;

  return (
    <div
      className={styles.turntable}
      ref={box}
      data-state={state}
      onPointerMove={(e) => {
        const at = Date.now();
        if (!traced || e.buttons !== 0 || at - under.current < readEvery) return;
        under.current = at;
        const q = inFrame(e);
        live.read(Math.min(0.9999, q.x / 100), Math.min(0.9999, q.y / 100));
      }}
      onPointerLeave={live.forget}
    >
      {state !== "ready" && (
        <div className={bits.empty} style={{ position: "absolute", inset: 0, zIndex: 2 }}>
          {state === "loading" ? "Fetching the scene's shape" : state}
        </div>
      )}
      {p.live && (
        <canvas
          ref={live.canvas}
          className={styles.live}
          data-live={traced ? `${live.frame!.scale}/${live.frame!.samples}` : "none"}
          style={{ left: f.x, top: f.y, width: f.w, height: f.h, visibility: traced ? "visible" : "hidden" }}
          aria-hidden
        />
      )}
      {size.w > 0 && (
        <svg className={styles.guides} width={size.w} height={size.h} aria-hidden>
          <path
            fillRule="evenodd"
            fill={traced ? "none" : "rgba(30,30,30,.55)"}
            d={`M0 0H${size.w}V${size.h}H0zM${f.x} ${f.y}v${f.h}h${f.w}v${-f.h}z`}
          />
          <g stroke={tones.ink} strokeWidth="1" fill="none">
            {[
              [f.x, f.y, -1, -1],
              [f.x + f.w, f.y, 1, -1],
              [f.x, f.y + f.h, -1, 1],
              [f.x + f.w, f.y + f.h, 1, 1],
            ].map(([x, y, sx, sy], i) => (
              <path key={i} d={`M${x! + sx! * 4} ${y}h${sx! * 16}M${x} ${y! + sy! * 4}v${sy! * 16}`} />
            ))}
          </g>
          {region?.on && (
            <rect
              x={f.x + (region.x / 100) * f.w}
              y={f.y + (region.y / 100) * f.h}
              width={(region.width / 100) * f.w}
              height={(region.height / 100) * f.h}
              fill="none"
              stroke={tones.amber}
              strokeDasharray="4 3"
            />
          )}
          {p.focus && (
            <g
              transform={`translate(${f.x + (p.focus.x / 100) * f.w} ${f.y + (p.focus.y / 100) * f.h})`}
              fill="none"
              data-testid="focus-mark"
            >
              {[
                { stroke: "rgba(0,0,0,.6)", strokeWidth: 4 },
                { stroke: tones.amber, strokeWidth: 1.5 },
              ].map((pen) => (
                <path key={pen.stroke} {...pen} d="M-13 -5Q0 -13 13 -5M-13 5Q0 13 13 5M-1.5 0h3" />
              ))}
            </g>
          )}
        </svg>
      )}
      {p.crops && size.w > 0 && (
        <div className={styles.crops} style={{ left: f.x, top: f.y, width: f.w, height: f.h }}>
          <CropGuides crops={p.crops.list} width={p.crops.width} height={p.crops.height} />
        </div>
      )}
      {traced && !p.held?.length && (
        <div className={styles.marks} style={{ left: f.x + 20, top: f.y + f.h + 6, width: f.w - 40 }}>
          <button aria-pressed={marked} onClick={() => setMarked(!marked)}>
            {marked ? "Clipping: stripes are clipped, dots crushed" : "Clipping"}
          </button>
          <button
            aria-pressed={swapped}
            onClick={swap}
            title={`Key ${swapKey.toUpperCase()}: in this picture only; no finish is touched`}
          >
            {swapped ? `Shown in ${surfaceWords[other]}` : `In ${surfaceWords[other]}`}
          </button>
          <button aria-pressed={reading} onClick={() => setReading(!reading)}>
            {reading ? "Hide read-outs" : "Read-outs"}
          </button>
          {p.onKept && (
            <button disabled={!live.whole} onClick={() => void live.keep().then(p.onKept)}>
              Keep picture
            </button>
          )}
        </div>
      )}
      {traced && reading && !p.held?.length && (
        <>
          <div className={styles.over} style={{ left: f.x, top: f.y, width: f.w, height: f.h }}>
            <AreaCatcher area={area} pick={setArea} />
          </div>
          <div className={styles.corner} style={{ left: f.x, top: f.y + f.h }}>
            <ReadOuts frame={live.frame!} area={live.area} take={p.onArea} />
          </div>
        </>
      )}
      {p.held && p.held.length > 0 && (
        <HeldPictures urls={p.held} style={{ left: f.x, top: f.y, width: f.w, height: f.h }} />
      )}
      {(p.region?.on || p.focus) && (
        <div
          className={styles.region}
          style={{ left: f.x, top: f.y, width: f.w, height: f.h }}
          title={[p.region?.on && "Draw the region of the frame to compute", p.focus && "Click what is to be in focus"]
            .filter(Boolean)
            .join(". ")}
          data-testid="frame-catcher"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            const at = inFrame(e);
            setDrag({ ...at, r: { on: p.region?.on ?? false, ...at, width: 0.1, height: 0.1 } });
          }}
          onPointerMove={(e) => {
            if (!drag) return;
            const q = inFrame(e);
            const x = round(Math.min(drag.x, q.x));
            const y = round(Math.min(drag.y, q.y));
            const width = round(Math.max(0.1, Math.min(100 - x, Math.abs(drag.x - q.x))));
            const height = round(Math.max(0.1, Math.min(100 - y, Math.abs(drag.y - q.y))));
            setDrag({ ...drag, r: { ...drag.r, x, y, width, height } });
          }}
          onPointerUp={() => {
            if (drag?.r.on && drag.r.width > 1 && drag.r.height > 1) p.onRegion?.(drag.r);
            else if (drag && p.focus && drag.r.width <= 1 && drag.r.height <= 1)
              p.onFocus?.(round(drag.x), round(drag.y));
            setDrag(null);
          }}
        />
      )}
      {p.handles && !p.held?.length && stage.current && size.w > 0 && (
        <LightHandles {...p.handles} drawing={stage.current} size={size} />
      )}
      {p.moving && !p.asking && !p.held?.length && stage.current && size.w > 0 && (
        <PartHandles {...p.moving} drawing={stage.current} size={size} />
      )}
      {p.asking && (
        <AskCatcher
          what={p.asking.what}
          give={(x, y) => {
            const asked = p.asking!;
            const u = (x - f.x) / f.w;
            const v = (y - f.y) / f.h;
            const hit = stage.current?.hit((x / size.w) * 2 - 1, 1 - (y / size.h) * 2);
            const within = traced && u >= 0 && u < 1 && v >= 0 && v < 1;
            void (within ? live.readOnce(u, v) : Promise.resolve(null)).then((reading) =>
              asked.answer({ part: hit?.part ?? null, point: hit?.point ?? null, reading }),
            );
          }}
          stop={() => p.asking!.answer(null)}
        />
      )}
      {p.onPick && !p.asking && (
        <PickCatcher box={box} pick={(x, y, add) => p.onPick!(stage.current?.hit(x, y)?.part ?? null, add)} />
      )}
    </div>
  );
}

/** How often what is under the pointer is read, milliseconds. */
const readEvery = 80;

/** liveSlug says what a live picture is; over it, what lies under the pointer. */
function liveSlug(f: LiveFrame, r: LiveReading | null, why?: (key: string) => string): string {
  if (r) {
    const values = r.values.map((v) => v.toPrecision(3)).join(" ");
    return `live · ${r.key && why ? why(r.key) : r.part || "nothing"} · ${values} · shown ${r.display.join(" ")}`;
  }
  const at = f.scale > 1 ? `at 1/${f.scale}, ` : "";
  const state = `${at}${count(f.samples, "sample")}${f.clean ? ", denoised" : ""}${f.done ? ", done" : ""}`;
  return `live · ${state} · ${f.clipped.toFixed(1)} % clipped, ${f.crushed.toFixed(1)} % crushed${f.cast ? ` · ${castWords(f.cast)}` : ""}`;
}

/** PickCatcher tells a click from the end of a turn. */
function PickCatcher(p: {
  box: React.RefObject<HTMLDivElement | null>;
  pick: (x: number, y: number, add: boolean) => void;
}) {
  const latest = useLatest(p);
  useEffect(() => {
    const el = p.box.current!;
    let from: { x: number; y: number } | null = null;
    const down = (e: PointerEvent) => {
      from = (e.target as Element).closest("button") ? null : { x: e.clientX, y: e.clientY };
    };
    const up = (e: PointerEvent) => {
      if (from && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 4) {
        const b = el.getBoundingClientRect();
        latest.current.pick(
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
  }, [p.box]);
  return null;
}

/** AskCatcher lies over the view until it is clicked or the question is given up. */
function AskCatcher(p: { what: string; give: (x: number, y: number) => void; stop: () => void }) {
  const stop = useLatest(p.stop);
  useEffect(() => {
    const key = (e: KeyboardEvent) => e.key === "Escape" && stop.current();
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
  return (
    <div
      className={styles.asking}
      data-testid="asking"
      onClick={(e) => {
        const b = e.currentTarget.getBoundingClientRect();
        p.give(e.clientX - b.left, e.clientY - b.top);
      }}
    >
      <span role="status">{p.what}</span>
      <button
        onClick={(e) => {
          e.stopPropagation();
          p.stop();
        }}
      >
        Leave it
      </button>
    </div>
  );
}

/** HeldPictures are one picture, or two with a line between them that can be moved. */
function HeldPictures({ urls, style }: { urls: string[]; style: React.CSSProperties }) {
  const [wipe, setWipe] = useState(50);
  return (
    <div className={styles.held} style={style} data-testid="held">
      <img src={urls[0]} alt="The kept picture" />
      {urls[1] && (
        <>
          <img src={urls[1]} alt="The other kept picture" style={{ clipPath: `inset(0 0 0 ${wipe}%)` }} />
          <WipeHandle at={wipe} set={setWipe} />
        </>
      )}
    </div>
  );
}
