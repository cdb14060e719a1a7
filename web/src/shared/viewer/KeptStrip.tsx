import { App, Button } from "antd";
import { useEffect } from "react";
import { useChange, type Schemas } from "../../api/http";
import { keptPicture, readKept, removeKept, useKept } from "../../api/scenes";
import bits from "../bits.module.css";
import styles from "./KeptStrip.module.css";

/** A picture that can be shown in place of the live one. */
export type Proof = { url: string; name: string };

type Props = {
  scene: number;
  /** Proofs that can be compared with what was kept. */
  proofs?: Proof[];
  /** Takes the set-up of a kept picture again. */
  again?: (setup: Schemas["Setup"]) => void;
  /** Addresses of those that are shown in place of the live picture: one, or two that are compared. */
  held: string[];
  onHeld: (urls: string[]) => void;
};

const hour = (at: string) => new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });

/** KeptStrip is the contact strip of the live pictures that were kept, newest last, after proofs. */
export function KeptStrip({ scene, proofs = [], again, held, onHeld }: Props) {
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
  if (kept.length === 0 && held.length === 0) return null;
  const one = held.length === 1 ? kept.find((k) => keptPicture(k.id) === held[0]) : undefined;
  const shown = [
    ...proofs.map((p) => ({ ...p, title: `Proof ${p.name}.` })),
    ...kept.map((k, i) => ({
      url: keptPicture(k.id),
      name: `${i + 1} · ${hour(k.created)}`,
      title: `${k.width} × ${k.height}, ${k.samples} samples.`,
    })),
  ];
  return (
    <div className={styles.strip} aria-label="Kept live pictures">
      <div className={styles.row}>
        {shown.map(({ url, name, title }) => (
          <button
            key={url}
            className={held.includes(url) ? `${bits.kept} ${bits.chosen}` : bits.kept}
            aria-pressed={held.includes(url)}
            title={`${title} Again: back to the live picture. With Shift: compare two.`}
            onClick={(e) => {
              const more = (e.shiftKey || e.ctrlKey || e.metaKey) && held.length > 0;
              if (held.includes(url)) onHeld(held.filter((h) => h !== url));
              else onHeld(more ? [held[0]!, url] : [url]);
            }}
          >
            <img src={url} alt={`Kept picture ${name}`} loading="lazy" />
            <span className="mono">{name}</span>
          </button>
        ))}
      </div>
      <div className={styles.actions}>
        {held.length > 0 && (
          <Button size="small" onClick={() => onHeld([])}>
            Back to the live picture
          </Button>
        )}
        {one && (
          <>
            {again && (
              <Button
                size="small"
                loading={read.isPending}
                onClick={() =>
                  read.mutate(one.id, {
                    ...fail,
                    onSuccess: (k) => {
                      again(k.setup);
                      onHeld([]);
                    },
                  })
                }
              >
                Restore this set-up
              </Button>
            )}
            <Button
              size="small"
              type="text"
              onClick={() => remove.mutate(one.id, { ...fail, onSuccess: () => onHeld([]) })}
            >
              Remove
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
