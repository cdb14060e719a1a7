import { App, Button, Modal } from "antd";
import { useState } from "react";
import { invitePerson } from "../api/doors";
import { useChange } from "../api/http";
import type { Person } from "../api/projects";

/** PasswordLink makes a link by which somebody sets a password, once, and shows it to be sent. */
export function PasswordLink({ project, person }: { project: number; person: Person }) {
  const { message } = App.useApp();
  const [link, setLink] = useState("");
  const make = useChange(invitePerson, []);
  return (
    <>
      <Button
        size="small"
        type="text"
        loading={make.isPending}
        onClick={() =>
          make.mutate(
            { id: project, person: person.id },
            {
              onSuccess: (v) => setLink(`${location.origin}/invited#${v.token}`),
              onError: (e) => void message.error(e.message),
            },
          )
        }
      >
        Password link
      </Button>
      <Modal
        open={link !== ""}
        title={`A link for ${person.name}`}
        okText="Copy link"
        onCancel={() => setLink("")}
        onOk={() =>
          void navigator.clipboard
            .writeText(link)
            .then(() => message.success("The link is copied."))
            .catch(() => message.error("The browser does not let the link be copied; select it."))
        }
      >
        <p>
          Send it to {person.name}. It sets a password once, within a week; a link made before it is no longer good.
        </p>
        <p className="mono" data-testid="password-link">
          {link}
        </p>
      </Modal>
    </>
  );
}
