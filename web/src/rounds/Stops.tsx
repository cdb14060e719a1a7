import { Button } from "antd";
import styles from "./RoundPage.module.css";

type Props = { label: string; value: number; set: (v: number) => void };

/** Stops make pictures lighter or darker, by half a stop at each press. */
export function Stops({ label, value, set }: Props) {
  const to = (v: number) => set(Math.min(10, Math.max(-10, v)));
  return (
    <span className={styles.stops} role="group" aria-label={label}>
      <Button size="small" aria-label={`${label}, darker`} onClick={() => to(value - 0.5)}>
        −
      </Button>
      <button className={`mono ${styles.value}`} title="Back to 0" disabled={value === 0} onClick={() => to(0)}>
        {value > 0 ? "+" : ""}
        {value.toFixed(1)}
      </button>
      <Button size="small" aria-label={`${label}, lighter`} onClick={() => to(value + 0.5)}>
        +
      </Button>
    </span>
  );
}
