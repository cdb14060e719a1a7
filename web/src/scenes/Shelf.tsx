import { useState } from "react";
import type { Schemas } from "../api/http";
import { useShelf } from "../api/scenes";
import styles from "./Shelf.module.css";

/** How many balls are asked for at a time. */
const atOnce = 2;

/** Shelf is the starter set of finishes, each as a ball that wears it; one is taken by a click. */
export function Shelf({ take }: { take: (f: Schemas["Finish"]) => void }) {
  const items = useShelf().data ?? [];
  // A browser has few lines to a server: all balls at once would leave none for what is saved.
  const [here, setHere] = useState(0);
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
                  <img
                    src={
                      items.indexOf(i) < here + atOnce
                        ? `/api/shelf/${encodeURIComponent(i.finish.name)}/ball.png`
                        : undefined
                    }
                    alt=""
                    onLoad={() => setHere((n) => n + 1)}
                    onError={() => setHere((n) => n + 1)}
                  />
                  <span>{i.finish.name}</span>
                </button>
              ))}
          </div>
        </div>
      ))}
    </div>
  );
}
