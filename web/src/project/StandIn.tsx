import { App, Button } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { setStandIn, useStandIn } from "../api/outbox";
import lists from "../shared/lists.module.css";
import { pretty } from "./Messages";
import { kindWords } from "./kinds";
import styles from "./ProjectPage.module.css";

/** How many the stand-in refuses when it is asked to. */
const refusals = 2;

/** StandIn is a program within this one that plays the one that is told, and shows what it got. */
export function StandIn({ project }: { project: number }) {
  const { message } = App.useApp();
  const standIn = useStandIn(project).data;
  const set = useChange(setStandIn, [["stand-in", project]]);
  const [open, setOpen] = useState<number>();
  if (!standIn) return null;
  return (
    <section aria-label="Stand-in">
      <h2>Stand-in</h2>
      <p className="faint">
        Plays the program that is told, to try a webhook without one: give a webhook the address{" "}
        <span className="mono">{standIn.url}</span>.
      </p>
      <div className={styles.choose}>
        <Button
          size="small"
          onClick={() => set.mutate({ project, refuses: refusals }, { onError: (e) => void message.error(e.message) })}
        >
          Refuse the next {refusals}
        </Button>
        {standIn.refuses > 0 && <span className="faint">refuses {standIn.refuses} more</span>}
      </div>
      {standIn.got.length === 0 && <p className="faint">It got nothing since the server was started.</p>}
      {standIn.got.map((g, i) => (
        <article key={`${g.id} ${g.at}`} className={`${lists.row} ${styles.message}`}>
          <button
            className={styles.turn}
            aria-expanded={i === open}
            onClick={() => setOpen(i === open ? undefined : i)}
          >
            <span className="faint">{new Date(g.at).toLocaleString()}</span>
            <span className="mono">{g.id}</span>
            <b>{kindWords[(JSON.parse(g.body) as { kind: string }).kind]}</b>
          </button>
          <span>
            {g.signed ? "signature matches" : <b>signature does not match</b>}, answered {g.status}
          </span>
          {i === open && (
            <div className={styles.said}>
              <pre className="mono">{pretty(g)}</pre>
            </div>
          )}
        </article>
      ))}
    </section>
  );
}
