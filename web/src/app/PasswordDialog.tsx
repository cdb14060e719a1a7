import { App, Input, Modal } from "antd";
import { useState } from "react";
import { setPassword } from "../api/doors";
import { useChange } from "../api/http";
import type { Schemas } from "../api/http";
import { NewPassword } from "../door/NewPassword";

/** PasswordDialog sets the password of who acts. The first one has everybody sign in from then on. */
export function PasswordDialog({ me, close }: { me: Schemas["Me"]; close: () => void }) {
  const { message } = App.useApp();
  const [was, setWas] = useState("");
  const [next, setNext] = useState("");
  const set = useChange(() => setPassword(was, next), [["me"]]);
  return (
    <Modal
      open
      title={me.open ? "Set the first password" : "Change password"}
      okText={me.open ? "Set password" : "Change password"}
      okButtonProps={{ disabled: !next || (!me.open && !was), loading: set.isPending }}
      onCancel={close}
      onOk={() =>
        set.mutate(undefined, {
          onSuccess: () => {
            void message.success("From now on you sign in with the new password.");
            close();
          },
        })
      }
    >
      {me.open && (
        <p>
          From then on everybody signs in, also on this machine. You are {me.name}; give the others a link for a
          password of their own on the page of the project’s people.
        </p>
      )}
      {set.error && <p role="alert">{set.error.message}</p>}
      {!me.open && (
        <label>
          Password now
          <Input.Password autoComplete="current-password" value={was} onChange={(e) => setWas(e.target.value)} />
        </label>
      )}
      <NewPassword name={me.name} value={next} onChange={setNext} />
    </Modal>
  );
}
