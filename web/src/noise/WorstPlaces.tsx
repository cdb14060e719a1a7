import type { RunDetail } from "../api/runs";
import type { Cell } from "./tiles";
import { said } from "./tiles";
import styles from "./NoisePage.module.css";

/** Pixels of the picture that a crop shows, and its side on the page. */
const seen = 64;
const side = 96;

type Props = { run: RunDetail; url: string | undefined; places: Cell[]; look: (c: Cell) => void };

/** WorstPlaces are the noisiest places of the picture side by side, enlarged, to be looked at. */
export function WorstPlaces({ run, url, places, look }: Props) {
  const [left, top, right, bottom] = run.window as [number, number, number, number];
  const k = side / seen;
  return (
    <ol className={styles.places} aria-label="Noisiest places">
      {places.map((c) => {
        const middle = (a: number, b: number, from: number, to: number) =>
          Math.min(Math.max(0, (a + b) / 2 - from - seen / 2), Math.max(0, to - from - seen));
        const x = middle(c.area[0], c.area[2], left, right);
        const y = middle(c.area[1], c.area[3], top, bottom);
        return (
          <li key={`${c.area[0]} ${c.area[1]}`}>
            <button onClick={() => look(c)} title="Look at this place">
              <span
                className={styles.crop}
                style={{
                  backgroundImage: url && `url("${url}")`,
                  backgroundSize: `${(right - left) * k}px ${(bottom - top) * k}px`,
                  backgroundPosition: `${-x * k}px ${-y * k}px`,
                }}
              />
              <b>{said(c.noise)} %</b>
              <span className="faint">
                {c.area[0]}, {c.area[1]}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}
