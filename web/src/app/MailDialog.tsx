import { App, Checkbox, Form, Input, Modal } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { setMyMail, useMyMail, type Mail } from "../api/outbox";

const wants: { value: Mail["wants"][number]; label: string }[] = [
  { value: "answers", label: "When a picture waits for my answer" },
  { value: "remarks", label: "Answers and remarks on what I put up, and remarks that name me" },
  { value: "runs", label: "When a run of mine is done or has failed" },
];

/** MailDialog says where mail reaches who acts, and of what they want some. */
export function MailDialog({ close }: { close: () => void }) {
  const was = useMyMail().data;
  return was ? <MailForm was={was} close={close} /> : null;
}

function MailForm({ was, close }: { was: Mail; close: () => void }) {
  const { message } = App.useApp();
  const set = useChange(setMyMail, [["my mail"], ["people"]]);
  const [m, setM] = useState(was);
  return (
    <Modal
      open
      title="Your mail"
      okText="Save"
      okButtonProps={{ loading: set.isPending }}
      onCancel={close}
      onOk={() => set.mutate(m, { onSuccess: close, onError: (e) => void message.error(e.message) })}
    >
      <Form layout="vertical" size="small" component="div">
        <Form.Item label="Address" help="Without one you get no mail.">
          <Input
            aria-label="Your mail address"
            type="email"
            maxLength={254}
            value={m.address}
            onChange={(e) => setM({ ...m, address: e.target.value })}
          />
        </Form.Item>
        <Form.Item label="Send me mail">
          <Checkbox.Group
            style={{ display: "grid" }}
            value={m.wants}
            onChange={(v) => setM({ ...m, wants: v })}
            options={wants}
          />
        </Form.Item>
      </Form>
    </Modal>
  );
}
