import { CheckOutlined, ClockCircleOutlined, MinusOutlined, RollbackOutlined } from "@ant-design/icons";
import type { Verdict } from "../api/rounds";
import styles from "./Stamp.module.css";

const shapes: Record<Verdict, React.ReactNode> = {
  approved: <CheckOutlined />,
  "approved with remarks": <CheckOutlined />,
  "changes asked": <RollbackOutlined />,
  waiting: <ClockCircleOutlined />,
  "nothing put up": <MinusOutlined />,
};

const words: Record<Verdict, string> = {
  approved: "Approved",
  "approved with remarks": "Approved with remarks",
  "changes asked": "Changes asked",
  waiting: "Waiting",
  "nothing put up": "Nothing put up",
};

/** Stamp says a verdict by its shape and its word. */
export function Stamp({ verdict, more }: { verdict: Verdict; more?: string }) {
  return (
    <span className={`${styles.stamp} ${verdict.startsWith("approved") ? styles.yes : ""}`}>
      {shapes[verdict]}
      <span>
        {words[verdict]}
        {more}
      </span>
    </span>
  );
}
