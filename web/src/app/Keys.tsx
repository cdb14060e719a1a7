import { Popover, Switch } from "antd";
import { useKeyList, useLetters } from "../shared/useKeys";
import styles from "./Frame.module.css";

const names: Record<string, string> = { arrowleft: "←", arrowright: "→" };

/** Keys tells which keys act on this page, and switches single letters off for who speaks or types to the machine. */
export function Keys() {
  const keys = Object.values(useKeyList((s) => s.lists)).flat();
  const { on, set } = useLetters();
  return (
    <Popover
      trigger="click"
      placement="rightBottom"
      content={
        <div className={styles.keys}>
          {keys.length === 0 && <div className="faint">No keys of its own on this page.</div>}
          {keys.map((k) => (
            <div key={k.key}>
              <kbd>{names[k.key] ?? k.key.toUpperCase()}</kbd> {k.says}
            </div>
          ))}
          <label>
            <Switch size="small" checked={on} onChange={set} aria-label="Single-letter keys" /> Single-letter keys
          </label>
        </div>
      }
    >
      <button className={styles.keysButton}>Keys</button>
    </Popover>
  );
}
