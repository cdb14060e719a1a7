import { useEffect } from "react";
import type { Area } from "./AreaCatcher";
import { channelTones } from "../tones";
import { useLivePicture, type LivePicture } from "./livePicture";
import { count } from "../words";
import styles from "./ReadOuts.module.css";

type Props = {
  picture: LivePicture;
  /** What is measured of it. */
  area: Area | null;
  /** Makes something of the parts of an area, by their keys. */
  take?: ((keys: string[]) => void) | undefined;
};

const bins = 64;
const height = 56;

/** line draws a channel of a histogram; what stands out is cut at the top, so that the rest can be read. */
function line(values: number[], most: number): string {
  const y = (v: number) => (height - height * Math.min(1, Math.sqrt(v / most))).toFixed(1);
  return values.map((v, i) => `${i === 0 ? "M" : "L"}${((i / (bins - 1)) * 192).toFixed(1)} ${y(v)}`).join("");
}

/** How each channel is drawn: told apart by its stroke, and named. */
const channels = [
  { name: "red", stroke: channelTones.red, dash: undefined },
  { name: "green", stroke: channelTones.green, dash: "5 2" },
  { name: "blue", stroke: channelTones.blue, dash: "1.5 2" },
];

/** ReadOuts are what can be told of a live picture as a whole, and of an area of it. */
export function ReadOuts({ picture, area: picked, take }: Props) {
  const { frame, area } = useLivePicture(picture, (s) => s);
  const state = frame && `${frame.number} ${frame.scale} ${frame.samples}`;
  useEffect(() => {
    if (picked) picture.measure(picked); // of every state of the picture anew
  }, [picture, picked, state]);
  if (!frame) return null;
  const all = frame.histogram.flat();
  const most = Math.max(1, ...[...all].sort((a, b) => b - a).slice(6, 7));
  const w = frame.warmth;
  const gap = w && w.left - w.right;
  return (
    <div className={`${styles.readouts} mono`} data-testid="readouts">
      <svg viewBox={`0 0 192 ${height}`} width="192" height={height} role="img" aria-label="Histogram as displayed">
        <path d={`M48 0V${height}M96 0V${height}M144 0V${height}`} className={styles.grid} />
        {channels.map((c, k) => (
          <path
            key={c.name}
            d={line(frame.histogram[k]!, most)}
            fill="none"
            stroke={c.stroke}
            strokeWidth="1.3"
            strokeDasharray={c.dash}
          />
        ))}
      </svg>
      <div className={styles.key} aria-hidden>
        {channels.map((c) => (
          <span key={c.name}>
            <svg width="18" height="6">
              <path d="M0 3H18" stroke={c.stroke} strokeWidth="1.5" strokeDasharray={c.dash} />
            </svg>
            {c.name}
          </span>
        ))}
      </div>
      <div>
        {gap == null
          ? "the product is on one side only"
          : Math.abs(gap) < 0.02
            ? "product: left and right as warm"
            : `product: ${gap > 0 ? "left" : "right"} warmer by ${Math.abs(gap).toFixed(2)} EV`}
      </div>
      <div>
        {picked && area
          ? `area: ${area.values.map((v) => v.toPrecision(3)).join(" ")}, ${area.grey >= 0 ? "+" : ""}${area.grey.toFixed(2)} EV against mid grey`
          : "drag on the picture to measure an area"}
      </div>
      {picked && area && take && area.parts.length > 0 && (
        <button className={styles.take} title={area.parts.join("\n")} onClick={() => take(area.parts)}>
          A rule for the {count(area.parts.length, "part")} in it
        </button>
      )}
    </div>
  );
}
