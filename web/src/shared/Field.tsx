import { Input, InputNumber, Select, Segmented, Switch, Tooltip } from "antd";
import { createContext, useContext, useId, type ReactNode } from "react";
import type { Fault, Schemas, Ticket } from "../api/http";
import { useSettings } from "../api/jobs";
import { read, type TicketPath } from "./path";
import styles from "./Field.module.css";

type Setting = Schemas["Setting"];

/** A ticket being edited: read and written by path. */
export type Editing = {
  ticket: Ticket;
  faults: Fault[];
  set: (path: TicketPath, value: unknown) => void;
};
export const EditingContext = createContext<Editing | null>(null);

export function useEditing(): Editing {
  const e = useContext(EditingContext);
  if (!e) throw new Error("a field stands outside a ticket");
  return e;
}

export function useSetting(path: TicketPath | `${string}[].${string}`): Setting | undefined {
  const { data } = useSettings();
  const plain = path.replace(/\[\d+\]/g, "[]");
  return data?.settings.find((s) => s.path === plain);
}

const wordsOf: Record<string, string> = {
  exr: "EXR",
  png: "PNG",
  zip: "ZIP",
  zips: "ZIPS",
  piz: "PIZ",
  rle: "RLE",
  multipart: "Multi-part",
  rec709: "Rec.709",
  acescg: "ACEScg",
  "blackman-harris": "Blackman-Harris",
  mitchell: "Mitchell-Netravali",
  stage: "As the stage",
  colourless: "Without colour",
  shown: "As shown",
  "8": "8 bit",
  "16": "16 bit",
};
const word = (c: string) => wordsOf[c] ?? c.charAt(0).toUpperCase() + c.slice(1);

/** Row is a label, a control, its help, and what is wrong with it. Help opens on the pointer, on focus and on a touch. */
export function Row(p: { label: ReactNode; help?: string; fault?: string; wide?: boolean; children: ReactNode }) {
  const id = useId();
  return (
    <div className={p.wide ? `${styles.field} ${styles.wide}` : styles.field}>
      {p.help ? (
        <Tooltip
          title={<span id={id}>{p.help}</span>}
          placement="left"
          mouseEnterDelay={0.4}
          trigger={["hover", "focus", "click"]}
        >
          <span
            className={styles.label}
            tabIndex={0}
            role="note"
            aria-label={typeof p.label === "string" ? `${p.label}: ${p.help}` : p.help}
          >
            {p.label}
          </span>
        </Tooltip>
      ) : (
        <span className={styles.label}>{p.label}</span>
      )}
      <span className={styles.control}>{p.children}</span>
      {p.fault && (
        <span className={styles.fault} role="alert">
          {p.fault}
        </span>
      )}
    </div>
  );
}

/** helpOf is a setting's line of help with its range and default. */
export function helpOf(s: Setting): string {
  const unit = s.unit ? ` ${s.unit}` : "";
  const range =
    s.kind !== "choice" && s.min !== undefined && s.max !== undefined ? ` ${s.min} to ${s.max}${unit}.` : "";
  const def = s.default;
  const shown =
    typeof def === "boolean" ? (def ? "on" : "off") : typeof def === "string" ? def : `${String(def)}${unit}`;
  return `${s.help ?? ""}${range}${def === undefined || def === "" ? "" : ` Default: ${shown}.`}`;
}

/** Field shows one setting as the server describes it. A double click on its label gives the default. */
export function Field({ path, label, wide }: { path: TicketPath; label?: string; wide?: boolean }) {
  const { ticket, faults, set } = useEditing();
  const s = useSetting(path);
  if (!s) return null;
  const fault = faults.find((f) => f.path === path)?.message;
  const name = <span onDoubleClick={() => s.default !== undefined && set(path, s.default)}>{label ?? s.label}</span>;
  return (
    <Row label={name} help={helpOf(s)} fault={fault} wide={wide}>
      <Control s={s} path={path} value={read(ticket, path)} set={(v) => set(path, v)} wide={wide} />
    </Row>
  );
}

/** How many letters of choices fit beside each other, and how many where it is narrow. */
const mostBeside = 26;
const mostBesideNarrow = 13;

/** Control edits a value; mixed stands for several that differ. */
export function Control(p: {
  s: Setting;
  path: string;
  value: unknown;
  set: (v: unknown) => void;
  wide?: boolean;
  mixed?: boolean;
  /** Beside it there is room for short words only. */
  narrow?: boolean;
}) {
  const { s, set } = p;
  const label = s.label;
  switch (s.kind) {
    case "switch":
      return (
        <>
          {p.mixed && <span className="faint">mixed</span>}
          <Switch size="small" checked={Boolean(p.value)} onChange={set} aria-label={label} />
        </>
      );
    case "choice": {
      const number = typeof p.value === "number";
      const options = (s.choices ?? []).map((c) => ({ value: c, label: word(c) }));
      const change = (v: string) => set(number ? Number(v) : v);
      const words = options.map((o) => o.label).join("").length;
      if (options.length > 3 || words > (p.wide ? Infinity : p.narrow ? mostBesideNarrow : mostBeside))
        return (
          <Select
            size="small"
            value={p.mixed ? null : String(p.value)}
            placeholder="mixed"
            options={options}
            onChange={change}
            aria-label={label}
          />
        );
      return (
        <>
          {p.mixed && <span className="faint">mixed</span>}
          <Segmented
            size="small"
            value={p.mixed ? "" : String(p.value)}
            options={options}
            onChange={change}
            aria-label={label}
          />
        </>
      );
    }
    case "number":
    case "whole":
      return (
        <InputNumber
          size="small"
          value={p.mixed ? null : (p.value as number)}
          placeholder={p.mixed ? "mixed" : undefined}
          min={s.min}
          max={s.max}
          step={s.step ?? 1}
          precision={s.kind === "whole" ? 0 : undefined}
          suffix={s.unit}
          aria-label={label}
          onChange={(v) => v !== null && set(v)}
        />
      );
  }
  return (
    <Input
      size="small"
      value={String(p.value ?? "")}
      onChange={(e) => set(e.target.value)}
      aria-label={label}
      style={{ width: p.wide ? "100%" : undefined }}
    />
  );
}
