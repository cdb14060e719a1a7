import type { ReactNode } from "react";
import styles from "./Door.module.css";

type Props = { title: string; wrong?: string | undefined; send: () => void; children: ReactNode };

/** Card is the form at the door. */
export function Card({ title, wrong, send, children }: Props) {
  return (
    <main className={styles.door}>
      <form
        className={styles.card}
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <img src="/mark.svg" width="36" height="36" alt="Amber Proof" />
        <h1>{title}</h1>
        {wrong && (
          <p className={styles.wrong} role="alert">
            {wrong}
          </p>
        )}
        {children}
      </form>
    </main>
  );
}
