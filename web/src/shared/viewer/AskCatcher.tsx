import { useEffect } from "react";
import { useLatest } from "../useLatest";
import styles from "./Viewer.module.css";

type Props = {
  what: string;
  /** Where it was clicked, in pixels of the view. */
  give: (x: number, y: number) => void;
  stop: () => void;
};

/** AskCatcher lies over the view until it is clicked or the question is given up. */
export function AskCatcher(p: Props) {
  const stop = useLatest(p.stop);
  useEffect(() => {
    const key = (e: KeyboardEvent) => e.key === "Escape" && stop.current();
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [stop]);
  return (
    <div
      className={styles.asking}
      data-testid="asking"
      onClick={(e) => {
        const b = e.currentTarget.getBoundingClientRect();
        p.give(e.clientX - b.left, e.clientY - b.top);
      }}
    >
      <span role="status">{p.what}</span>
      <button
        onClick={(e) => {
          e.stopPropagation();
          p.stop();
        }}
      >
        Cancel
      </button>
    </div>
  );
}
