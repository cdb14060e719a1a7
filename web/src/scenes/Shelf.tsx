import type { Schemas } from "../api/http";
import { useShelf } from "./api";
import styles from "./Shelf.module.css";

/** Shelf is the starter set of finishes, each as a ball that wears it; one is taken by a click. */
export function Shelf({ take }: { take: (f: Schemas["Finish"]) => void }) {
  const items = useShelf().data ?? [];
  const groups = [...new Set(items.map((i) => i.group))];
  return (
    <div className={styles.shelf} aria-label="Shelf of finishes">
      {groups.map((g) => (
        <div key={g}>
          <h3>{g}</h3>
          <div className={styles.row}>
            {items
              .filter((i) => i.group === g)
              .map((i) => (
                <button
                  key={i.finish.name}
                  title={`${i.finish.name}. ${i.source}.`}
                  aria-label={i.finish.name}
                  onClick={() => take(i.finish)}
                >
                  <img src={`/api/shelf/${encodeURIComponent(i.finish.name)}/ball.png`} alt="" loading="lazy" />
                  <span>{i.finish.name}</span>
                </button>
              ))}
          </div>
        </div>
      ))}
    </div>
  );
}
