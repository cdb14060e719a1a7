import { App, Modal } from "antd";
import type { ReactNode } from "react";

type Props = { title: string; text: string; children: ReactNode; close: () => void };

/** CopyDialog shows a link that is told once, to be copied and sent. */
export function CopyDialog({ title, text, children, close }: Props) {
  const { message } = App.useApp();
  return (
    <Modal
      open={text !== ""}
      title={title}
      okText="Copy link"
      onCancel={close}
      onOk={() =>
        void navigator.clipboard
          .writeText(text)
          .then(() => message.success("The link is copied."))
          .catch(() => message.error("The browser does not let the link be copied; select it."))
      }
    >
      <p>{children}</p>
      <p className="mono" data-testid="link" style={{ overflowWrap: "anywhere" }}>
        {text}
      </p>
    </Modal>
  );
}
