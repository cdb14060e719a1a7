import { Button, Input } from "antd";
import { useState } from "react";
import { signIn } from "../api/doors";
import { useChange } from "../api/http";
import { canPasskey, signInByPasskey } from "../api/passkeys";
import { Card } from "./Card";

/** SignInPage is all that somebody sees who is not signed in. */
export function SignInPage() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const enter = useChange(() => signIn(name, password), []);
  const byKey = useChange(signInByPasskey, []);
  return (
    <Card title="Sign in" wrong={(enter.error ?? byKey.error)?.message} send={() => enter.mutate(undefined)}>
      <label>
        Name
        <Input autoFocus autoComplete="username" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label>
        Password
        <Input.Password
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
      </label>
      <Button type="primary" htmlType="submit" loading={enter.isPending} disabled={!name.trim() || !password}>
        Sign in
      </Button>
      {canPasskey() && (
        <Button loading={byKey.isPending} onClick={() => byKey.mutate(undefined)}>
          Sign in with a passkey
        </Button>
      )}
      <p className="faint">No password, or a forgotten one? A lead of your project can send you a link.</p>
    </Card>
  );
}
