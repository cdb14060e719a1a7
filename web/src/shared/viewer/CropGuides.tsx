import type { Schemas } from "../../api/http";
import styles from "./CropGuides.module.css";

/** CropGuides draws where crops lie over a frame of so many pixels. */
export function CropGuides(p: { crops: Schemas["Cropped"][]; width: number; height: number }) {
  if (p.crops.length === 0) return null;
  const share = (v: number, of: number) => `${(100 * v) / of}%`;
  return (
    <div className={styles.guides} data-testid="crops" aria-hidden>
      {p.crops.map((c, i) => (
        <div
          key={c.name}
          className={styles.crop}
          style={{
            left: share(c.x, p.width),
            top: share(c.y, p.height),
            width: share(c.width, p.width),
            height: share(c.height, p.height),
          }}
        >
          {/* Names of crops that begin in one corner do not cover each other. */}
          <span style={{ top: 4 + 18 * i }}>
            {c.name} · {c.width} × {c.height}
          </span>
        </div>
      ))}
    </div>
  );
}
