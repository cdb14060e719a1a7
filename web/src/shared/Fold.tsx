import { RightOutlined } from "@ant-design/icons";
import { useState, type ReactNode } from "react";
import styles from "./Fold.module.css";

/** Fold is one line that opens on request. */
export function Fold(p: { line: ReactNode; children: ReactNode; testid?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <div data-testid={p.testid}>
      <button className={styles.line} aria-expanded={open} onClick={() => setOpen(!open)}>
        <span>{p.line}</span>
        <RightOutlined rotate={open ? 90 : 0} aria-hidden />
      </button>
      {open && <div className={styles.inside}>{p.children}</div>}
    </div>
  );
}
