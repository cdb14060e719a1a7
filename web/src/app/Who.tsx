import { UserOutlined } from "@ant-design/icons";
import { App, Button, Popover } from "antd";
import { actAs, roleWords, useMe, useProject } from "../api/projects";
import styles from "./Who.module.css";

/** Who says who acts. As long as nobody has a password, the page is anybody's. */
export function Who() {
  const me = useMe().data;
  const project = useProject();
  const { message } = App.useApp();
  if (!me) return null;
  const role = project && me.roles.find((r) => r.project === project.id)?.role;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className={styles.people}>
          <p className="faint">
            Nobody has a password yet: who opens this page on this machine is signed in as {me.others[0]?.name}. See the
            project as somebody else:
          </p>
          {me.others.map((p) => (
            <button
              key={p.id}
              className={styles.person}
              aria-pressed={p.id === me.id}
              onClick={() => void actAs(p.id).catch((e: Error) => void message.error(e.message))}
            >
              <span>{p.name}</span>
              <span className="faint">
                {p.roles.map((r) => roleWords[r as keyof typeof roleWords]).join(", ") || "in no project"}
                {p.id === me.id && " · now"}
              </span>
            </button>
          ))}
        </div>
      }
    >
      <Button type="text" size="small" icon={<UserOutlined />}>
        {me.name}
        {role && <span className="faint">{roleWords[role]}</span>}
      </Button>
    </Popover>
  );
}
