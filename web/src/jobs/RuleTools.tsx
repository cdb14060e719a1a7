import { CloseOutlined, HolderOutlined } from "@ant-design/icons";
import { Button } from "antd";
import { useRef } from "react";
import { disabledIf } from "../shared/disabledIf";
import styles from "./rules.module.css";

/** hitsOf says how many parts a rule decides, once that is known. */
export const hitsOf = (n: number | undefined) => (n === undefined ? "" : `${n} ${n === 1 ? "part" : "parts"}`);

/** moved is a list with one of its entries in another place. */
function moved<T>(list: T[], from: number, to: number): T[] {
  const l = [...list];
  const [x] = l.splice(from, 1);
  l.splice(to, 0, x!);
  return l;
}

/** RuleTools move a rule within its list, by dragging or with the arrow keys, since the first that matches decides; and remove it. */
export function RuleTools<T>({ name, at, list, put }: { name: string; at: number; list: T[]; put: (l: T[]) => void }) {
  const grip = useRef<HTMLButtonElement>(null);
  const dragged = useRef<number | null>(null); // where it would be put
  const to = (place: number) => {
    if (place === at || place < 0 || place >= list.length) return;
    // The grip of the place it goes to keeps the keys.
    const row = grip.current!.closest("[data-rule]")!;
    const all = [...row.parentElement!.querySelectorAll<HTMLElement>(":scope > [data-rule] [data-grip]")];
    put(moved(list, at, place));
    all[place]?.focus();
  };
  const rows = () => [...grip.current!.closest("[data-rule]")!.parentElement!.querySelectorAll(":scope > [data-rule]")];
  const mark = (place: number | null) =>
    rows().forEach((r, i) => r.toggleAttribute("data-target", place !== null && i === place && place !== at));
  return (
    <span className={styles.tools}>
      <Button
        ref={grip}
        data-grip
        className={styles.grip}
        type="text"
        size="small"
        icon={<HolderOutlined />}
        {...disabledIf(list.length < 2)}
        aria-label={`Move ${name}: drag it, or press the arrow keys`}
        title="Drag, or press the arrow keys: the first that matches decides"
        onKeyDown={(e) => {
          if (e.key !== "ArrowUp" && e.key !== "ArrowDown") return;
          e.preventDefault();
          to(e.key === "ArrowUp" ? at - 1 : at + 1);
        }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          dragged.current = at;
        }}
        onPointerMove={(e) => {
          if (dragged.current === null) return;
          const over = rows().findIndex((r) => e.clientY < r.getBoundingClientRect().bottom);
          dragged.current = over < 0 ? list.length - 1 : over;
          mark(dragged.current);
        }}
        onPointerUp={() => {
          const place = dragged.current;
          dragged.current = null;
          mark(null);
          if (place !== null) to(place);
        }}
        onPointerCancel={() => {
          dragged.current = null;
          mark(null);
        }}
      />
      <Button
        type="text"
        size="small"
        icon={<CloseOutlined />}
        onClick={() => put(list.filter((_, k) => k !== at))}
        aria-label={`Remove ${name}`}
      />
    </span>
  );
}
