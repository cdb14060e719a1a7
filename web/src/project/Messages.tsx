import { App, Button } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { retryMessage, useMessages, type Message, type MessageChoice } from "../api/outbox";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import { kindWords } from "./kinds";
import styles from "./ProjectPage.module.css";

/** Messages are mail of a project, or what a webhook was sent, the newest first. */
export function Messages({ choice, none }: { choice: Omit<MessageChoice, "before">; none: string }) {
  const [before, setBefore] = useState(0);
  const page = useMessages({ ...choice, before });
  const [open, setOpen] = useState<number>();
  if (page.error)
    return (
      <div className={bits.notice} role="alert">
        {page.error.message}
      </div>
    );
  if (!page.data) return null;
  return (
    <>
      {page.data.messages.length === 0 && <p className="faint">{none}</p>}
      {page.data.messages.map((m) => (
        <Row key={m.id} message={m} open={m.id === open} turn={() => setOpen(m.id === open ? undefined : m.id)} />
      ))}
      <div className={`${styles.choose} ${lists.more}`}>
        {before > 0 && (
          <Button size="small" onClick={() => setBefore(0)}>
            Newest
          </Button>
        )}
        {page.data.before > 0 && (
          <Button size="small" onClick={() => setBefore(page.data.before)}>
            Earlier
          </Button>
        )}
      </div>
    </>
  );
}

const time = (at: string) => new Date(at).toLocaleString();

function Row({ message: m, open, turn }: { message: Message; open: boolean; turn: () => void }) {
  const { message } = App.useApp();
  const retry = useChange(retryMessage, [["messages"]]);
  const tried = m.attempts > 1 ? `, ${m.attempts} attempts` : "";
  return (
    <article className={`${lists.row} ${styles.message}`}>
      <button className={styles.turn} aria-expanded={open} onClick={turn}>
        <span className="faint">{time(m.created)}</span>
        {m.webhook === 0 && <span>{m.address}</span>}
        <b>{kindWords[m.subject] ?? m.subject}</b>
      </button>
      <span>
        {m.state === "given up" ? <b>Given up</b> : m.state === "sent" ? "Sent" : "Waiting"}
        <span className="faint">
          {tried}
          {m.due && m.attempts > 0 && `, next ${time(m.due)}`}
        </span>
      </span>
      <span className={styles.does}>
        {m.state !== "sent" && m.attempts > 0 && (
          <Button
            size="small"
            loading={retry.isPending}
            onClick={() => retry.mutate(m.id, { onError: (e) => void message.error(e.message) })}
          >
            Try now
          </Button>
        )}
      </span>
      {open && (
        <div className={styles.said}>
          {m.said && <p className="faint">{m.said}</p>}
          <pre className="mono">{m.body ? pretty(m) : "It was removed once it was sent: it held a link."}</pre>
        </div>
      )}
    </article>
  );
}

/** pretty is the body as it is read: what webhooks are sent is JSON. */
export const pretty = (m: { webhook?: number; body: string }) =>
  m.webhook === 0 ? m.body : JSON.stringify(JSON.parse(m.body), null, 2);
