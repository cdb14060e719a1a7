import { App, Button, Checkbox } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { changeWebhook, removeWebhook, useWebhooks, type Webhook } from "../api/outbox";
import bits from "../shared/bits.module.css";
import { CopyDialog } from "../shared/CopyDialog";
import lists from "../shared/lists.module.css";
import { Messages } from "./Messages";
import { StandIn } from "./StandIn";
import { WebhookForm } from "./WebhookForm";
import { kindWords } from "./kinds";
import styles from "./ProjectPage.module.css";

/** Webhooks are addresses of other programs that are told what happens in a project. */
export function Webhooks({ project }: { project: number }) {
  const webhooks = useWebhooks(project);
  const [form, setForm] = useState<Webhook | "new">();
  const [made, setMade] = useState<Webhook>();
  const [open, setOpen] = useState<number>();
  return (
    <>
      <p className="faint">
        Other programs, such as the studio’s tracking, are told what happens in this project by a signed request.
      </p>
      {webhooks.error && (
        <div className={bits.notice} role="alert">
          {webhooks.error.message}
        </div>
      )}
      {webhooks.data?.map((w) => (
        <div key={w.id}>
          <Row
            webhook={w}
            project={project}
            edit={() => setForm(w)}
            open={w.id === open}
            turn={() => setOpen(w.id === open ? undefined : w.id)}
          />
          {w.id === open && <Messages choice={{ project, webhook: w.id }} none="Nothing has been sent yet." />}
        </div>
      ))}
      <div className={styles.choose}>
        <Button size="small" onClick={() => setForm("new")}>
          New webhook
        </Button>
      </div>
      <StandIn project={project} />
      {form && (
        <WebhookForm
          project={project}
          was={form === "new" ? undefined : form}
          cancel={() => setForm(undefined)}
          done={(w) => {
            setForm(undefined);
            if (w) setMade(w);
          }}
        />
      )}
      <CopyDialog title="The webhook’s secret" what="secret" text={made?.secret ?? ""} close={() => setMade(undefined)}>
        Give it to the program at {made?.url}: it checks by it that requests come from here. It is shown once.
      </CopyDialog>
    </>
  );
}

type RowProps = { webhook: Webhook; project: number; edit: () => void; open: boolean; turn: () => void };

function Row({ webhook: w, project, edit, open, turn }: RowProps) {
  const { message } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const change = useChange(changeWebhook, [["webhooks", project]]);
  const remove = useChange(removeWebhook, [["webhooks", project]]);
  return (
    <div className={`${lists.row} ${styles.webhook}`}>
      <span>
        <span className="mono">{w.url}</span>
        <div className="faint">{w.kinds.map((k) => kindWords[k] ?? k).join(", ")}</div>
      </span>
      <Checkbox
        checked={!w.paused}
        onChange={(e) => change.mutate({ id: w.id, url: w.url, kinds: w.kinds, paused: !e.target.checked }, fail)}
      >
        Active
      </Checkbox>
      <span className={styles.does}>
        <Button size="small" type="text" aria-expanded={open} onClick={turn}>
          Requests
        </Button>
        <Button size="small" type="text" onClick={edit}>
          Change
        </Button>
        <Button size="small" type="text" onClick={() => remove.mutate(w.id, fail)}>
          Remove
        </Button>
      </span>
    </div>
  );
}
