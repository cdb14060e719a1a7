import { useEffect } from "react";
import type { Schemas } from "../../api/http";
import { useLatest } from "../useLatest";
import { useKeys } from "../useKeys";
import { isWhole, useLivePicture, type LivePicture } from "./livePicture";
import styles from "./LiveControls.module.css";

/** Which key shows own finishes for clay, or clay for them. */
const swapKey = "c";

/** What stands on the switch between surfaces: what it shows instead. */
export const surfaceNames = { own: "Own finishes", clay: "Clay" };

/** Lines of an icon in a square of 16. */
const icons = {
  clipping: "M2.5 3.5h11v9h-11zM5 12.5l8.5-7M9.5 12.5l4-3.3M2.5 11l9-7.5M2.5 7l4.2-3.5",
  swap: "M8 2.5a5.5 5.5 0 1 0 0 11a5.5 5.5 0 1 0 0-11M8 2.5v11M10 4l2.5 2.5M8.5 5.7l4.6 4.6M8.5 9.3l2.8 2.8",
  readOuts: "M2.5 2.5v11h11M4.5 11.5c1.5 0 1.7-6 3.3-6s1.5 4 2.7 4s1.3-2 2.5-2",
  keep: "M2.5 3.5h11v6.5h-11zM8 12v3M6.5 13.5h3M4.5 8l2.5-2.3l1.8 1.6l1.4-1l1.8 1.7",
};

function Control(p: { icon: keyof typeof icons; words: string; title: string; on?: boolean; act: () => void }) {
  return (
    <button aria-pressed={p.on} title={p.title} onClick={p.act}>
      <svg width="16" height="16" aria-hidden>
        <path d={icons[p.icon]} />
      </svg>
      {p.words}
    </button>
  );
}

type Props = {
  picture: LivePicture;
  /** The surfaces that the switch shows instead of the ticket's. */
  other: keyof typeof surfaceNames;
  /** The picture was kept, or why it could not be. */
  onKept?: ((kept: Schemas["Kept"] | string) => void) | undefined;
  place: React.CSSProperties;
};

/** LiveControls are what can be done with a live picture, together under its frame. */
export function LiveControls({ picture, other, onKept, place }: Props) {
  const { shown, marked, swapped, readOuts, keeping } = useLivePicture(picture, (s) => s);
  const whole = useLivePicture(picture, isWhole);
  const kept = useLatest(onKept);
  const swap = () => picture.change({ swapped: !swapped });
  useKeys([{ key: swapKey, says: "Own finishes or clay", act: swap }]);
  useEffect(() => {
    if (!keeping || !whole) return;
    picture.change({ keeping: false });
    void picture.keep().then((k) => kept.current?.(k));
  }, [keeping, whole, picture, kept]);
  if (!shown) return null;
  return (
    <div className={styles.controls} style={place} role="group" aria-label="Live picture">
      <Control
        icon="clipping"
        words="Clipping"
        title="Stripes where a channel is clipped, dots where all are crushed"
        on={marked}
        act={() => picture.change({ marked: !marked })}
      />
      <Control
        icon="swap"
        words={surfaceNames[other]}
        title={`Key ${swapKey.toUpperCase()}: in this picture only; no finish is touched`}
        on={swapped}
        act={swap}
      />
      <Control
        icon="readOuts"
        words="Read-outs"
        title="Histogram, warmth, and the mean of an area"
        on={readOuts}
        act={() => picture.change({ readOuts: !readOuts })}
      />
      {onKept && (
        <Control
          icon="keep"
          words={keeping ? "Keeps it once whole" : "Keep picture"}
          title="Keeps the picture with all that it is made of, for the strip below"
          on={keeping}
          act={() => picture.change({ keeping: !keeping })}
        />
      )}
    </div>
  );
}
