import { tones } from "../tones";
import type { Rectangle } from "./frame";
import styles from "./Viewer.module.css";

/** A region of the frame to be computed, in percent of it. */
export type Region = { on: boolean; x: number; y: number; width: number; height: number };

type Props = {
  size: { w: number; h: number };
  frame: Rectangle;
  /** What lies outside the frame is dimmed. */
  dimmed: boolean;
  region?: Region | undefined;
  /** Where the lens focuses, in percent of the frame. */
  focus?: { x: number; y: number } | undefined;
};

/** FrameGuides are lines over the view: the frame's corners, the region, and the point in focus. */
export function FrameGuides({ size, frame: f, dimmed, region, focus }: Props) {
  const corners = [
    [f.x, f.y, -1, -1],
    [f.x + f.w, f.y, 1, -1],
    [f.x, f.y + f.h, -1, 1],
    [f.x + f.w, f.y + f.h, 1, 1],
  ] as const;
  return (
    <svg className={styles.guides} width={size.w} height={size.h} aria-hidden>
      <path
        fillRule="evenodd"
        fill={dimmed ? "rgba(30,30,30,.55)" : "none"}
        d={`M0 0H${size.w}V${size.h}H0zM${f.x} ${f.y}v${f.h}h${f.w}v${-f.h}z`}
      />
      <g stroke={tones.ink} strokeWidth="1" fill="none">
        {corners.map(([x, y, sx, sy]) => (
          <path key={`${sx} ${sy}`} d={`M${x + sx * 4} ${y}h${sx * 16}M${x} ${y + sy * 4}v${sy * 16}`} />
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
      {focus && (
        <g
          transform={`translate(${f.x + (focus.x / 100) * f.w} ${f.y + (focus.y / 100) * f.h})`}
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
  );
}
