import { ArrowUpOutlined, CloseOutlined } from "@ant-design/icons";
import { Button } from "antd";
import styles from "./rules.module.css";

/** hitsOf says how many parts a rule decides, once that is known. */
export const hitsOf = (n: number | undefined) => (n === undefined ? "" : `${n} ${n === 1 ? "part" : "parts"}`);

/** RuleTools move a rule up its list, since the first that matches decides, and remove it. */
export function RuleTools<T>({ name, at, list, put }: { name: string; at: number; list: T[]; put: (l: T[]) => void }) {
  const earlier = () => {
    const l = [...list];
    const [x] = l.splice(at, 1);
    l.splice(at - 1, 0, x!);
    put(l);
  };
  return (
    <span className={styles.tools}>
      <Button
        type="text"
        size="small"
        icon={<ArrowUpOutlined />}
        disabled={at === 0}
        onClick={earlier}
        aria-label={`${capital(name)} earlier`}
      />
      <Button
        type="text"
        size="small"
        icon={<CloseOutlined />}
        onClick={() => put(list.filter((_, k) => k !== at))}
        aria-label={`Remove ${name}`}
      />
    </span>
  );
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
