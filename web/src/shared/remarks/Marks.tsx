import { anchor, type Mark, type Pin } from "./marks";
import styles from "./Marks.module.css";

type Props = {
  pins: Pin[];
  proof: number;
  chosen?: number | undefined;
  choose: (id: number) => void;
  draft?: Mark | null;
};

const ends = { open: "", done: " ✓", "won't do": " –" };

/** Marks lie over a frame and show where remarks are: a ring at the place, and a tag with the number. */
export function Marks({ pins, proof, chosen, choose, draft }: Props) {
  const seen = pins.filter((p) => p.seen === "visible" || (p.id === chosen && p.seen === "hidden"));
  return (
    <div className={styles.marks}>
      <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
        {pins
          .filter((p) => p.proof === proof && (p.state === "open" || p.id === chosen))
          .map((p) => (
            <Shape key={p.id} mark={p.mark as Mark} />
          ))}
        {draft && <Shape mark={draft} />}
      </svg>
      {seen.map((p) => (
        <button
          key={p.id}
          className={`handle ${styles.pin} ${p.seen === "hidden" ? styles.hidden : ""}`}
          style={{ left: `${100 * p.x}%`, top: `${100 * p.y}%` }}
          data-state={p.state}
          aria-pressed={p.id === chosen}
          aria-label={`Remark ${p.number}, ${p.state}${p.seen === "hidden" ? ", hidden from here" : ""}`}
          onClick={() => choose(p.id)}
        >
          <i />
          <span>
            {p.number}
            {ends[p.state]}
          </span>
        </button>
      ))}
      {draft && (
        <div
          className={styles.pin}
          style={{ left: `${100 * anchor(draft)[0]}%`, top: `${100 * anchor(draft)[1]}%` }}
          data-state="open"
        >
          <i />
          <span>new</span>
        </div>
      )}
    </div>
  );
}

function Shape({ mark }: { mark: Mark }) {
  if (mark.kind === "spot") return null;
  const [a, b] = mark.points as [[number, number], [number, number]];
  const d =
    mark.kind === "box"
      ? `M${a[0]} ${a[1]}H${b[0]}V${b[1]}H${a[0]}Z`
      : mark.points.map(([x, y], i) => `${i ? "L" : "M"}${x} ${y}`).join("");
  return (
    <>
      <path d={d} className={styles.under} />
      <path d={d} className={styles.line} />
    </>
  );
}
