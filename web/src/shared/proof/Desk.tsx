import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type Dispatch,
  type ReactNode,
  type SetStateAction,
} from "react";
import { LookedContext, type Looked } from "./looked";
import styles from "./Desk.module.css";

export type Zoom = { k: number; x: number; y: number };

type Props = {
  width: number;
  height: number;
  children: ReactNode;
  wall?: string;
  /** Called with the pixel of the frame under the pointer, or null. */
  onPoint?: (p: { x: number; y: number } | null) => void;
  /** Number of pixels of the screen per pixel of the picture, for the zoom read-out. */
  onZoom?: (scale: number) => void;
  command?: { kind: "fit" | "pixels"; n: number };
  /** Zoom and place that several desks share. */
  lock?: { zoom: Zoom; set: Dispatch<SetStateAction<Zoom>> };
};

/** The whole frame in the middle. */
export const fit: Zoom = { k: 1, x: 0, y: 0 };

/** Desk lays a frame on a neutral wall with crop corners and a grey wedge; wheel zooms, dragging moves. */
export function Desk({ width, height, children, wall, onPoint, onZoom, command, lock }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  const [own, setOwn] = useState<Zoom>(fit);
  const zoom = lock?.zoom ?? own;
  const setZoom = lock?.set ?? setOwn;
  const drag = useRef<{ x: number; y: number; z: Zoom } | null>(null);
  const fingers = useRef(new Map<number, { x: number; y: number }>());

  useEffect(() => {
    const el = box.current!;
    const look = new ResizeObserver(() => setSize({ w: el.clientWidth, h: el.clientHeight }));
    look.observe(el);
    return () => look.disconnect();
  }, []);

  const room = { w: Math.max(40, size.w - 84), h: Math.max(40, size.h - 44) };
  const base = Math.min(room.w / width, room.h / height);
  const scale = base * zoom.k;
  const w = width * scale;
  const h = height * scale;
  // On whole pixels, so that what is laid out in the frame in whole pixels has no seams.
  const x = Math.round((size.w - w) / 2 + zoom.x);
  const y = Math.round((size.h - h) / 2 + zoom.y);
  const looked = useMemo<Looked>(
    () => ({
      width,
      height,
      scale,
      sight: [-x / scale, -y / scale, (size.w - x) / scale, (size.h - y) / scale],
    }),
    [width, height, scale, x, y, size],
  );
  const screen = scale * (typeof window === "undefined" ? 1 : window.devicePixelRatio);

  useEffect(() => onZoom?.(screen), [onZoom, screen]);
  useEffect(() => {
    if (!command) return;
    if (command.kind === "fit") setZoom(fit);
    else setZoom((z) => ({ ...z, k: 1 / (base * window.devicePixelRatio) }));
    // Only a new command counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [command?.n]);

  const zoomAt = useCallback(
    (cx: number, cy: number, f: number) =>
      setZoom((z) => {
        const k = Math.min(64 / base, Math.max(0.5, z.k * f));
        const g = k / z.k;
        const mx = cx - size.w / 2;
        const my = cy - size.h / 2;
        return { k, x: mx - (mx - z.x) * g, y: my - (my - z.y) * g };
      }),
    [base, size, setZoom],
  );
  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const b = el.getBoundingClientRect();
      zoomAt(e.clientX - b.left, e.clientY - b.top, Math.exp(-e.deltaY / 400));
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  }, [zoomAt]);

  /** Two fingers hold what is under them. */
  const pinch = (e: React.PointerEvent) => {
    const was = fingers.current.get(e.pointerId);
    const other = [...fingers.current].find(([id]) => id !== e.pointerId)?.[1];
    if (!was) return;
    fingers.current.set(e.pointerId, { x: e.clientX, y: e.clientY });
    if (!other) return;
    const far = (p: { x: number; y: number }) => Math.max(1, Math.hypot(p.x - other.x, p.y - other.y));
    const b = box.current!.getBoundingClientRect();
    const mid = { x: (e.clientX + other.x) / 2 - b.left, y: (e.clientY + other.y) / 2 - b.top };
    zoomAt(mid.x, mid.y, far({ x: e.clientX, y: e.clientY }) / far(was));
    setZoom((z) => ({ ...z, x: z.x + (e.clientX - was.x) / 2, y: z.y + (e.clientY - was.y) / 2 }));
  };
  const lift = (e: React.PointerEvent) => {
    fingers.current.delete(e.pointerId);
    drag.current = null;
  };

  return (
    <div
      ref={box}
      className={screen >= 2 ? `${styles.desk} ${styles.pixels}` : styles.desk}
      style={{ background: wall }}
      onPointerDown={(e) => {
        if (e.target instanceof Element && e.target.closest(".handle")) return;
        fingers.current.set(e.pointerId, { x: e.clientX, y: e.clientY });
        drag.current = fingers.current.size > 1 ? null : { x: e.clientX, y: e.clientY, z: zoom };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        pinch(e);
        const d = drag.current;
        if (d) setZoom({ ...d.z, x: d.z.x + e.clientX - d.x, y: d.z.y + e.clientY - d.y });
        const b = box.current!.getBoundingClientRect();
        const px = Math.floor((e.clientX - b.left - x) / scale);
        const py = Math.floor((e.clientY - b.top - y) / scale);
        onPoint?.(px >= 0 && py >= 0 && px < width && py < height ? { x: px, y: py } : null);
      }}
      onPointerUp={lift}
      onPointerCancel={lift}
      onPointerLeave={() => onPoint?.(null)}
      onDoubleClick={() => setZoom(fit)}
    >
      {size.w > 0 && (
        <div className={styles.frame} style={{ left: x, top: y, width: w, height: h }}>
          <i className={`${styles.crop} ${styles.tl}`} />
          <i className={`${styles.crop} ${styles.tr}`} />
          <i className={`${styles.crop} ${styles.bl}`} />
          <i className={`${styles.crop} ${styles.br}`} />
          <LookedContext value={looked}>{children}</LookedContext>
        </div>
      )}
      <div
        className={styles.wedge}
        title="If you cannot tell its two darkest steps apart, your screen misleads you."
        aria-hidden
      >
        {Array.from({ length: 11 }, (_, i) => {
          const v = Math.round((i / 10) * 255);
          return <i key={i} style={{ background: `rgb(${v},${v},${v})` }} />;
        })}
      </div>
    </div>
  );
}
