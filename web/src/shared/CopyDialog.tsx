import { App, Modal } from "antd";
import type { ReactNode } from "react";

type Props = { title: string; what?: string; text: string; children: ReactNode; close: () => void };

/** CopyDialog shows a link or a secret that is told once, to be copied and passed on. */
export function CopyDialog({ title, what = "link", text, children, close }: Props) {
  const { message } = App.useApp();
  return (
    <Modal
      open={text !== ""}
      title={title}
      okText={`Copy ${what}`}
      onCancel={close}
      onOk={() =>
        void navigator.clipboard
          .writeText(text)
          .then(() => message.success(`The ${what} is copied.`))
          .catch(() => message.error(`The browser does not let the ${what} be copied; select it.`))
      }
    >
      <p>{children}</p>
      <p className="mono" data-testid={what} style={{ overflowWrap: "anywhere" }}>
        {text}
      </p>
    </Modal>
  );
}
