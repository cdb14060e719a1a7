import { UserOutlined } from "@ant-design/icons";
import { App, Button, Popover } from "antd";
import { useState } from "react";
import { actAs, signOut } from "../api/doors";
import { roleWords, useMe, useProject } from "../api/projects";
import { MailDialog } from "./MailDialog";
import { PasskeysDialog } from "./PasskeysDialog";
import { PasswordDialog } from "./PasswordDialog";
import styles from "./Who.module.css";

/** Who says who acts. As long as nobody has a password, the page is anybody's. */
export function Who() {
  const me = useMe().data;
  const project = useProject();
  const { message } = App.useApp();
  const [open, setOpen] = useState(false);
  const [asking, setAsking] = useState(false);
  const [keys, setKeys] = useState(false);
  const [mailing, setMailing] = useState(false);
  if (!me) return null;
  const role = project && me.roles.find((r) => r.project === project.id)?.role;
  const wrong = (e: Error) => void message.error(e.message);
  const mail = () => {
    setOpen(false);
    setMailing(true);
  };
  const ask = () => {
    setOpen(false);
    setAsking(true);
  };
  return (
    <>
      <Popover
        trigger="click"
        placement="bottomRight"
        open={open}
        onOpenChange={setOpen}
        content={
          <div className={styles.people}>
            {me.open ? (
              <>
                <p className="faint">
                  Nobody has a password yet: who opens this page on this machine is signed in as {me.others[0]?.name}.
                  See the project as somebody else:
                </p>
                {me.others.map((p) => (
                  <button
                    key={p.id}
                    className={styles.person}
                    aria-pressed={p.id === me.id}
                    onClick={() => void actAs(p.id).catch(wrong)}
                  >
                    <span>{p.name}</span>
                    <span className="faint">
                      {p.roles.map((r) => roleWords[r as keyof typeof roleWords]).join(", ") || "in no project"}
                      {p.id === me.id && " · now"}
                    </span>
                  </button>
                ))}
                {me.leads && (
                  <Button size="small" onClick={ask}>
                    Set the first password
                  </Button>
                )}
                <Button size="small" onClick={mail}>
                  Your mail
                </Button>
              </>
            ) : (
              <>
                <Button size="small" onClick={mail}>
                  Your mail
                </Button>
                <Button size="small" onClick={ask}>
                  Change password
                </Button>
                <Button
                  size="small"
                  onClick={() => {
                    setOpen(false);
                    setKeys(true);
                  }}
                >
                  Passkeys
                </Button>
                <Button size="small" onClick={() => void signOut().catch(wrong)}>
                  Sign out
                </Button>
              </>
            )}
          </div>
        }
      >
        <Button type="text" size="small" icon={<UserOutlined />}>
          {me.name}
          {role && <span className="faint">{roleWords[role]}</span>}
        </Button>
      </Popover>
      {keys && <PasskeysDialog close={() => setKeys(false)} />}
      {mailing && <MailDialog close={() => setMailing(false)} />}
      {asking && <PasswordDialog me={me} close={() => setAsking(false)} />}
    </>
  );
}
