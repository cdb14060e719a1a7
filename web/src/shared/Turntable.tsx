import { useEffect, useImperativeHandle, useRef, useState, type Ref } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Schemas, Ticket } from "../api/http";
import { drawnAs, loadShape, matrixOf, rowsOf } from "./shape";
import { useLivePicture, type LiveFrame, type LiveReading } from "./useLivePicture";
import { count } from "./words";
import { drawing, tones } from "../app/theme";
import bits from "./bits.module.css";
import styles from "./Turntable.module.css";

export type TurntableHandle = {
  camera: () => Schemas["Camera"];
  /** Looks at a place from where the view is, near enough to see it. */
  show: (centre: number[], radius: number) => void;
};

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
  live?: { ticket?: Ticket | undefined } | undefined;
  /** Tells what the live picture is, for the line under it; nothing while there is none. */
  onLive?: (slug: string) => void;
  /** Part indices drawn in amber. */
  picked?: number[];
  /** Whether all others are drawn as a veil, so that they hide nothing. */
  through?: boolean;
  onPick?: (part: number | null, add: boolean) => void;
  onMoved?: () => void;
  region?: Region;
  onRegion?: (r: Region) => void;
  /** Where the lens focuses, in percent of the frame. */
  focus?: { x: number; y: number } | undefined;
  onFocus?: (x: number, y: number) => void;
  ref?: Ref<TurntableHandle>;
};

const margin = 28;

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
  const stage = useRef<Stage | null>(null);
  const latest = useRef(p);
  latest.current = p;
  const aspect = p.width / p.height;
  const [turning, setTurning] = useState(false);
  const [marked, setMarked] = useState(false);
  const [turned, setTurned] = useState<{ from: string; camera: Schemas["Camera"] } | null>(null);

  useEffect(() => {
    const el = box.current!;
    let made: Stage;
    try {
      made = new Stage(el, {
        start: () => {
          setTurning(true);
          latest.current.onMoved?.();
        },
        end: () => {
          setTurning(false);
          setTurned({ from: latest.current.cameraKey, camera: stage.current!.camera() });
        },
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
      })
      .catch((e: unknown) => stop.signal.aborted || setState(String(e instanceof Error ? e.message : e)));
    return () => stop.abort();
    // The shape belongs to the scene's content.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [p.scene.scene.sha256]);

  useEffect(() => {
    stage.current?.look(p.camera, p.scene);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [p.cameraKey, p.scene.scene.id]);
  useEffect(() => {
    if (size.w) stage.current?.resize(size.w, size.h, frameIn(size.w, size.h, aspect).h);
  }, [size, aspect, p.cameraKey]);
  useEffect(() => stage.current?.highlight(p.picked ?? [], p.through ?? false), [p.picked, p.through, state]);
  useEffect(() => stage.current?.wearing(p.scene.finishes), [p.scene.finishes, state]);
  useEffect(() => stage.current?.stand(p.scene.parts, p.pose), [p.scene.parts, p.pose, state]);
  useImperativeHandle(
    p.ref,
    () => ({
      camera: () => stage.current!.camera(),
      show: (centre, radius) => stage.current!.approach(centre, Math.max(radius, latest.current.scene.radius / 12)),
    }),
    [],
  );

  const f = frameIn(size.w, size.h, aspect);
  const dense = Math.min(2, window.devicePixelRatio);
  const live = useLivePicture(
    p.live && size.w > 0
      ? {
          scene: p.scene.scene.id,
          ticket: p.live.ticket,
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
  const under = useRef(0);
  const slug = traced ? liveSlug(live.frame!, live.reading) : live.wrong;
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
      {traced && (
        <button
          className={styles.mark}
          style={{ left: f.x + 20, top: f.y + f.h + 6 }}
          aria-pressed={marked}
          onClick={() => setMarked(!marked)}
        >
          {marked ? "Marked: stripes are clipped, dots crushed" : "Mark what is clipped or crushed"}
        </button>
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
      {p.onPick && <PickCatcher box={box} pick={(x, y, add) => p.onPick!(stage.current?.partAt(x, y) ?? null, add)} />}
    </div>
  );
}

/** How often what is under the pointer is read, milliseconds. */
const readEvery = 80;

/** liveSlug says what a live picture is; over it, what lies under the pointer. */
function liveSlug(f: LiveFrame, r: LiveReading | null): string {
  if (r) {
    const values = r.values.map((v) => v.toPrecision(3)).join(" ");
    return `live · ${r.part || "nothing"} · ${values} · shown ${r.display.join(" ")}`;
  }
  const at = f.scale > 1 ? `at 1/${f.scale}, ` : "";
  const state = `${at}${count(f.samples, "sample")}${f.clean ? ", denoised" : ""}${f.done ? ", done" : ""}`;
  return `live · ${state} · ${f.clipped.toFixed(1)} % clipped, ${f.crushed.toFixed(1)} % crushed`;
}

/** PickCatcher tells a click from the end of a turn. */
function PickCatcher(p: {
  box: React.RefObject<HTMLDivElement | null>;
  pick: (x: number, y: number, add: boolean) => void;
}) {
  const latest = useRef(p);
  latest.current = p;
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

/** How strongly what is picked is tinted in a traced picture, and for how many milliseconds. */
const tinted = 0.45;
const tintedFor = 1400;

/** Stage owns the WebGL side and draws on demand only. */
class Stage {
  private renderer: THREE.WebGLRenderer;
  private scene = new THREE.Scene();
  private view = new THREE.PerspectiveCamera(20, 1, 0.01, 100);
  private controls: OrbitControls;
  private group: THREE.Group | null = null;
  private yfov = 0.3;
  private frame = { w: 1, h: 1, fh: 1 };
  private due = 0;
  private lit = new THREE.MeshStandardMaterial({ color: tones.amber, roughness: 0.5, side: THREE.DoubleSide });
  private finishes: THREE.Material[] = [];
  private wears: number[] = [];
  private picked = new Set<number>();
  private through = false;
  private end: () => void;
  private veil = new THREE.MeshStandardMaterial({
    color: tones.ink,
    transparent: true,
    opacity: 0.07,
    depthWrite: false,
    side: THREE.DoubleSide,
  });

  // Over a traced picture: what is picked tints it, the rest only hides that.
  private traced = false;
  private fading = 0;
  private tint = new THREE.MeshBasicMaterial({
    color: tones.amber,
    transparent: true,
    opacity: 0,
    side: THREE.DoubleSide,
  });
  private unseen = new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide });
  private nothing = new THREE.MeshBasicMaterial({ colorWrite: false, depthWrite: false });

  constructor(box: HTMLElement, turns: { start: () => void; end: () => void }) {
    this.renderer = new THREE.WebGLRenderer({ antialias: !navigator.webdriver, alpha: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.toneMapping = THREE.NeutralToneMapping;
    box.prepend(this.renderer.domElement);
    this.scene.background = new THREE.Color(tones.wall);
    this.scene.add(new THREE.HemisphereLight(drawing.light, drawing.shade, 1.6));
    const key = new THREE.DirectionalLight(drawing.light, 1.8);
    key.position.set(-2, 3, 3);
    this.scene.add(key);
    this.controls = new OrbitControls(this.view, this.renderer.domElement);
    this.controls.addEventListener("change", () => this.draw());
    this.controls.addEventListener("start", turns.start);
    this.controls.addEventListener("end", turns.end);
    this.end = turns.end;
  }

  show(group: THREE.Group, radius: number) {
    if (this.group) this.scene.remove(this.group);
    this.group = group;
    this.scene.add(group);
    this.view.near = radius / 50;
    this.view.far = radius * 200;
    this.fit();
  }

  look(c: Schemas["Camera"], s: Schemas["SceneBody"]) {
    const m = matrixOf(c.matrix);
    m.decompose(this.view.position, this.view.quaternion, this.view.scale);
    this.view.scale.set(1, 1, 1);
    this.yfov = c.yfov || 0.3;
    // The turning point: on the line of sight, as far away as the product.
    const forward = new THREE.Vector3(0, 0, -1).applyQuaternion(this.view.quaternion);
    const centre = new THREE.Vector3(...(s.centre as [number, number, number]));
    const d = Math.max(s.radius * 0.2, centre.sub(this.view.position).dot(forward));
    this.controls.target.copy(this.view.position).addScaledVector(forward, d);
    this.controls.update();
    this.fit();
  }

  resize(w: number, h: number, frameHeight: number) {
    this.frame = { w, h, fh: frameHeight };
    this.renderer.setSize(w, h);
    this.fit();
  }

  private fit() {
    // The frame, not the window, spans the view's field.
    const t = Math.tan(this.yfov / 2) * (this.frame.h / this.frame.fh);
    this.view.fov = (2 * Math.atan(t) * 180) / Math.PI;
    this.view.aspect = this.frame.w / this.frame.h;
    this.view.updateProjectionMatrix();
    this.draw();
  }

  camera(): Schemas["Camera"] {
    this.view.updateMatrixWorld();
    return { matrix: rowsOf(this.view.matrixWorld), yfov: this.yfov, ymag: 0 };
  }

  partAt(x: number, y: number): number | null {
    if (!this.group) return null;
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(x, y), this.view);
    const seen = this.group.children.filter((o) => o.visible);
    const hit = ray.intersectObjects(seen, false)[0];
    return hit ? (hit.object.userData["part"] as number) : null;
  }

  highlight(parts: number[], through: boolean) {
    this.picked = new Set(parts);
    this.through = through && parts.length > 0;
    // For a moment only: a tint that stays would be in the way of judging the finish.
    this.tint.opacity = tinted;
    window.clearTimeout(this.fading);
    this.fading = window.setTimeout(() => {
      this.tint.opacity = 0;
      this.draw();
    }, tintedFor);
    this.dress();
  }

  /** dress has every part wear its finish, amber where it is picked, or a veil. */
  private dress() {
    this.group?.children.forEach((o) => {
      const i = o.userData["part"] as number;
      const own = this.finishes[this.wears[i] ?? 0];
      if (!own) return;
      const picked = this.picked.has(i);
      o.renderOrder = picked ? 1 : 0; // tints over what hides it
      if (this.traced) (o as THREE.Mesh).material = picked ? this.tint : own.transparent ? this.nothing : this.unseen;
      else (o as THREE.Mesh).material = picked ? this.lit : this.through ? this.veil : own;
    });
    this.draw();
  }

  /** wearing has the finishes drawn as they are now. */
  wearing(finishes: Schemas["FinishBody"][]) {
    this.finishes.forEach((m) => m.dispose());
    this.finishes = finishes.map(drawnAs);
    this.dress();
  }

  /** stand puts the parts where the set-up, or a moment of an animation, has them, in what they wear. */
  stand(parts: Schemas["PartBody"][], places: (number[] | null)[] | undefined) {
    this.wears = parts.map((p) => p.wears);
    this.group?.children.forEach((o) => {
      const i = o.userData["part"] as number;
      const part = parts[i];
      if (!part) return;
      o.visible = !part.out;
      o.matrix.copy(matrixOf(places?.[i] ?? part.world));
      o.matrixWorldNeedsUpdate = true;
    });
    this.dress();
  }

  /** approach goes straight towards a place until it fills half of the frame. */
  approach(centre: number[], radius: number) {
    const c = new THREE.Vector3(...(centre as [number, number, number]));
    const back = new THREE.Vector3(0, 0, 1).applyQuaternion(this.view.quaternion);
    this.view.position.copy(c).addScaledVector(back, (2 * radius) / Math.tan(this.yfov / 2));
    this.controls.target.copy(c);
    this.controls.update();
    this.draw();
    this.end();
  }

  /** over has the view lie over a traced picture, or show the scene by itself. */
  over(traced: boolean) {
    this.traced = traced;
    this.scene.background = traced ? null : new THREE.Color(tones.wall);
    this.dress();
  }

  private draw() {
    if (this.due) return;
    this.due = requestAnimationFrame(() => {
      this.due = 0;
      this.renderer.render(this.scene, this.view);
    });
  }

  dispose() {
    cancelAnimationFrame(this.due);
    window.clearTimeout(this.fading);
    this.controls.dispose();
    this.group?.traverse((o) => (o as THREE.Mesh).geometry?.dispose());
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}
