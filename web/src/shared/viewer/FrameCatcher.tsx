import type { CSSProperties } from "react";
import type { Region } from "./FrameGuides";
import styles from "./Viewer.module.css";

type Point = { x: number; y: number };
/** A drag over the frame: where it began, and the region that it draws. */
export type Drag = Point & { region: Region };

type Props = {
  place: CSSProperties;
  region?: Region | undefined;
  focus?: Point | undefined;
  drag: Drag | null;
  onDrag: (d: Drag | null) => void;
  /** Where the pointer is, in percent of the frame. */
  at: (e: React.PointerEvent) => Point;
  onRegion?: ((r: Region) => void) | undefined;
  onFocus?: ((x: number, y: number) => void) | undefined;
};

const round = (v: number) => Math.round(v * 10) / 10;

/** FrameCatcher lies over the frame: a drag draws the region, a click is what comes into focus. */
export function FrameCatcher({ place, region, focus, drag, onDrag, at, onRegion, onFocus }: Props) {
  return (
    <div
      className={styles.region}
      style={place}
      title={[region?.on && "Draw the region of the frame to render", focus && "Click the point to focus on"]
        .filter(Boolean)
        .join(". ")}
      data-testid="frame-catcher"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        const p = at(e);
        onDrag({ ...p, region: { on: region?.on ?? false, ...p, width: 0.1, height: 0.1 } });
      }}
      onPointerMove={(e) => {
        if (!drag) return;
        const p = at(e);
        const x = round(Math.min(drag.x, p.x));
        const y = round(Math.min(drag.y, p.y));
        const width = round(Math.max(0.1, Math.min(100 - x, Math.abs(drag.x - p.x))));
        const height = round(Math.max(0.1, Math.min(100 - y, Math.abs(drag.y - p.y))));
        onDrag({ ...drag, region: { ...drag.region, x, y, width, height } });
      }}
      onPointerUp={() => {
        const r = drag?.region;
        if (r?.on && r.width > 1 && r.height > 1) onRegion?.(r);
        else if (drag && r && focus && r.width <= 1 && r.height <= 1) onFocus?.(round(drag.x), round(drag.y));
        onDrag(null);
      }}
    />
  );
}
