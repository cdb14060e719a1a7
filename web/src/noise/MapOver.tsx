import type { Area, NoiseMap } from "../api/noise";
import { useLooked } from "../shared/proof/looked";
import { cells, said, strength } from "./tiles";
import styles from "./NoisePage.module.css";

/** Least side of a cell on the page, so that its number is read. */
const room = 38;

/** MapOver lays the noise over the picture: a number for each square, the larger the coarser it is looked at; those above the target stand out. */
export function MapOver({ map, reference }: { map: NoiseMap; reference: number }) {
  const { width, height, scale, sight } = useLooked();
  const across = Math.max(1, Math.ceil(room / (map.side * scale)));
  const p = (v: number, of: number) => `${(100 * v) / of}%`;
  return (
    <div className={styles.map} aria-hidden>
      {cells(map, across, sight as Area).map((c) => {
        const s = strength(c.noise, reference);
        const [l, t, r, b] = c.area;
        return (
          <span
            key={`${l} ${t}`}
            className={s > 0 ? styles.above : undefined}
            style={{
              left: p(l, width),
              top: p(t, height),
              width: p(r - l, width),
              height: p(b - t, height),
              backgroundColor: s > 0 ? `rgb(from var(--amber) r g b / ${0.16 + 0.44 * s})` : undefined,
            }}
          >
            {said(c.noise)}
          </span>
        );
      })}
    </div>
  );
}
