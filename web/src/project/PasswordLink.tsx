import { App, Button } from "antd";
import { useState } from "react";
import { invitePerson } from "../api/doors";
import { useChange } from "../api/http";
import type { Person } from "../api/projects";
import { CopyDialog } from "../shared/CopyDialog";

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
            { id: project, person: person.id, mail: person.mail !== "" },
            {
              onSuccess: (v) => setLink(`${location.origin}/invited#${v.token}`),
              onError: (e) => void message.error(e.message),
            },
          )
        }
      >
        Password link
      </Button>
      <CopyDialog title={`A link for ${person.name}`} text={link} close={() => setLink("")}>
        {person.mail ? `It was sent to ${person.mail} as well.` : `Send it to ${person.name}.`} It sets a password once,
        within a week; a link made before it is no longer good.
      </CopyDialog>
    </>
  );
}
