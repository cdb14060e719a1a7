import { App, Button, Input, Modal } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { addPasskey, canPasskey, removePasskey, usePasskeys, type Passkey } from "../api/passkeys";
import lists from "../shared/lists.module.css";
import styles from "./Who.module.css";

/** PasskeysDialog lists the passkeys of who acts, and adds one. */
export function PasskeysDialog({ close }: { close: () => void }) {
  const all = usePasskeys();
  return (
    <Modal open title="Your passkeys" footer={null} onCancel={close}>
      <p className="faint">You sign in by a passkey instead of your password: with this device, or a security key.</p>
      {all.data?.map((k) => (
        <Row key={k.id} passkey={k} />
      ))}
      {canPasskey() ? (
        <Adding />
      ) : (
        <p>
          {["127.0.0.1", "[::1]"].includes(location.hostname)
            ? `To add one, open http://localhost:${location.port}: passkeys need a name instead of a number.`
            : "This browser does not know passkeys."}
        </p>
      )}
    </Modal>
  );
}

function Row({ passkey: k }: { passkey: Passkey }) {
  const { message } = App.useApp();
  const remove = useChange(removePasskey, [["passkeys"]]);
  return (
    <div className={`${lists.row} ${lists.linked}`}>
      <span>
        <b>{k.name}</b>{" "}
        <span className="faint">
          for {k.site}, {k.used ? `last used ${new Date(k.used).toLocaleString()}` : "not used yet"}
        </span>
      </span>
      <Button
        size="small"
        type="text"
        loading={remove.isPending}
        onClick={() => remove.mutate(k.id, { onError: (e) => void message.error(e.message) })}
      >
        Remove
      </Button>
    </div>
  );
}

function Adding() {
  const add = useChange(addPasskey, [["passkeys"]]);
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  return (
    <form
      className={styles.adding}
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate(
          { name, password },
          {
            onSuccess: () => {
              setName("");
              setPassword("");
            },
          },
        );
      }}
    >
      <label>
        Name of the passkey
        <Input value={name} maxLength={120} placeholder="Desk computer" onChange={(e) => setName(e.target.value)} />
      </label>
      <label>
        Your password
        <Input.Password
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
      </label>
      {add.error && <p role="alert">{add.error.message}</p>}
      <Button htmlType="submit" loading={add.isPending} disabled={!name.trim() || !password}>
        Add a passkey
      </Button>
    </form>
  );
}
