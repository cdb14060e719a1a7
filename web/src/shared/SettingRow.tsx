import type { ReactNode } from "react";
import { useSettings } from "../jobs/api";
import { Control, helpOf, Row } from "./Field";

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
