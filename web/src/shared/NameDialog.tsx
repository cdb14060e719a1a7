import { Input, Modal } from "antd";
import { useState, type ReactNode } from "react";

type Props = {
  title: string;
  ok: string;
  was?: string;
  done: (name: string) => void;
  cancel: () => void;
  /** What else is asked. */
  children?: ReactNode;
};

/** NameDialog asks for a name. */
export function NameDialog({ title, ok, was = "", done, cancel, children }: Props) {
  const [name, setName] = useState(was);
  return (
    <Modal
      open
      title={title}
      okText={ok}
      okButtonProps={{ disabled: name.trim() === "" }}
      onCancel={cancel}
      onOk={() => done(name)}
    >
      <Input
        autoFocus
        aria-label="Name"
        value={name}
        maxLength={120}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => name.trim() !== "" && done(name)}
      />
      {children}
    </Modal>
  );
}
