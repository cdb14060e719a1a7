import { App, Button, Checkbox, Form, Input, Modal } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { addWebhook, changeWebhook, useStandIn, type Webhook } from "../api/outbox";
import { kindWords } from "./kinds";
import styles from "./ProjectPage.module.css";

type Props = { project: number; was: Webhook | undefined; cancel: () => void; done: (made: Webhook | null) => void };

/** WebhookForm makes a webhook or changes one. */
export function WebhookForm({ project, was, cancel, done }: Props) {
  const { message } = App.useApp();
  const fail = (e: Error) => void message.error(e.message);
  const stale = [["webhooks", project]];
  const add = useChange(addWebhook, stale);
  const change = useChange(changeWebhook, stale);
  const standIn = useStandIn(project).data?.url;
  const [url, setURL] = useState(was?.url ?? "");
  const [kinds, setKinds] = useState<string[]>(was?.kinds ?? Object.keys(kindWords));
  const send = () =>
    was
      ? change.mutate({ id: was.id, url, kinds, paused: was.paused }, { onSuccess: () => done(null), onError: fail })
      : add.mutate({ project, url, kinds }, { onSuccess: done, onError: fail });
  return (
    <Modal
      open
      title={was ? "Change webhook" : "New webhook"}
      okText={was ? "Change webhook" : "Create webhook"}
      okButtonProps={{ disabled: !url || kinds.length === 0, loading: add.isPending || change.isPending }}
      onCancel={cancel}
      onOk={send}
    >
      <Form layout="vertical" size="small" component="div">
        <Form.Item label="Address" help="Requests are POST with JSON, signed with a secret that is shown once.">
          <Input
            aria-label="Address of the webhook"
            placeholder="https://"
            value={url}
            maxLength={1000}
            onChange={(e) => setURL(e.target.value)}
          />
        </Form.Item>
        {standIn && url !== standIn && (
          <Button size="small" onClick={() => setURL(standIn)}>
            Use the stand-in
          </Button>
        )}
        <Form.Item label="Events">
          <Checkbox.Group
            className={styles.kinds!}
            value={kinds}
            onChange={setKinds}
            options={Object.entries(kindWords).map(([value, label]) => ({ value, label }))}
          />
        </Form.Item>
      </Form>
    </Modal>
  );
}
