import { App, Button } from "antd";
import { useEffect } from "react";
import { useChange } from "../api/http";
import { keptPicture, readKept, removeKept, useKept } from "./api";
import type { Bench } from "./useBench";
import bits from "../shared/bits.module.css";
import styles from "./KeptStrip.module.css";

type Props = {
  scene: number;
  bench: Bench;
  /** Those that are shown in place of the live picture: one, or two that are compared. */
  held: number[];
  onHeld: (ids: number[]) => void;
};

const hour = (at: string) => new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });

/** KeptStrip is the contact strip of the live pictures that were kept, newest last. */
export function KeptStrip({ scene, bench, held, onHeld }: Props) {
  const kept = useKept(scene).data ?? [];
  const { message } = App.useApp();
  const remove = useChange(removeKept, [["kept", scene]]);
  const read = useChange(readKept, []);
  const fail = { onError: (e: Error) => void message.error(e.message) };
  useEffect(() => {
    if (held.length === 0) return;
    const key = (e: KeyboardEvent) => e.key === "Escape" && onHeld([]);
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [held, onHeld]);
  if (kept.length === 0) return null;
  const one = held.length === 1 ? held[0]! : null;
  return (
    <div className={styles.strip} aria-label="Kept live pictures">
      <div className={styles.row}>
        {kept.map((k, i) => (
          <button
            key={k.id}
            className={held.includes(k.id) ? `${bits.kept} ${bits.chosen}` : bits.kept}
            aria-pressed={held.includes(k.id)}
            title={`${k.width} × ${k.height}, ${k.samples} samples. Again: back to the live picture. With Shift: compare two.`}
            onClick={(e) => {
              const more = (e.shiftKey || e.ctrlKey || e.metaKey) && held.length > 0;
              if (held.includes(k.id)) onHeld(held.filter((h) => h !== k.id));
              else onHeld(more ? [held[0]!, k.id] : [k.id]);
            }}
          >
            <img src={keptPicture(k.id)} alt={`Kept picture ${i + 1}`} loading="lazy" />
            <span className="mono">
              {i + 1} · {hour(k.created)}
            </span>
          </button>
        ))}
      </div>
      <div className={styles.actions}>
        {held.length > 0 && (
          <Button size="small" onClick={() => onHeld([])}>
            Back to the live picture
          </Button>
        )}
        {one !== null && (
          <>
            <Button
              size="small"
              loading={read.isPending}
              onClick={() =>
                read.mutate(one, {
                  ...fail,
                  onSuccess: (k) => {
                    bench.again(k.setup);
                    onHeld([]);
                  },
                })
              }
            >
              Take this set-up again
            </Button>
            <Button
              size="small"
              type="text"
              onClick={() => remove.mutate(one, { ...fail, onSuccess: () => onHeld([]) })}
            >
              Remove
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
