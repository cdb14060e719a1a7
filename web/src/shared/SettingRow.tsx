import type { ReactNode } from "react";
import { useSettings } from "../api/jobs";
import { Control, helpOf, Row } from "./Field";
import styles from "./SettingRow.module.css";

/** shared is the value that all have, or undefined where they differ. */
export function shared<T>(values: T[]): T | undefined {
  return values.every((v) => v === values[0]) ? values[0] : undefined;
}

type Props = {
  /** Of the setting, as the server describes it; [] stands for any entry of a list. */
  path: string;
  /** Of all that it changes at once. */
  values: unknown[];
  set: (value: unknown) => void;
  label?: string;
  unit?: string;
  /** What stands before the control. */
  before?: ReactNode;
};

/** SettingRow is one setting of one or several things, with 'mixed' where they differ. */
export function SettingRow(p: Props) {
  const { data } = useSettings();
  const s = data?.settings.find((x) => x.path === p.path);
  if (!s) return null;
  const value = shared(p.values);
  return (
    <Row label={p.label ?? s.label} help={helpOf(s)}>
      {p.before}
      <Control
        s={p.unit === undefined ? s : { ...s, unit: p.unit }}
        path={p.path}
        value={value}
        mixed={value === undefined}
        narrow
        set={p.set}
      />
    </Row>
  );
}

type TripleProps = {
  /** What the three are together. */
  label: string;
  paths: [string, string, string];
  values: [unknown[], unknown[], unknown[]];
  set: (index: number, value: unknown) => void;
};

/** TripleRow is three settings of one kind, as along three axes, in a row. */
export function TripleRow(p: TripleProps) {
  const { data } = useSettings();
  const three = p.paths.map((path) => data?.settings.find((s) => s.path === path));
  const unit = three[0]?.unit;
  return (
    <div className={styles.triple} role="group" aria-label={p.label}>
      <span className="faint">
        {p.label}
        {unit && `, ${unit}`}
      </span>
      {three.map((s, i) => {
        const value = shared(p.values[i]!);
        return (
          s && (
            <Control
              key={s.path}
              s={{ ...s, unit: "" }}
              path={s.path}
              value={value}
              mixed={value === undefined}
              narrow
              set={(v) => p.set(i, v)}
            />
          )
        );
      })}
    </div>
  );
}
