import { Button, InputNumber, Switch } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import { useSettings } from "../api/jobs";
import { Control, helpOf, Row, useEditing } from "../shared/Field";
import { disabledIf } from "../shared/disabledIf";
import styles from "./LampRows.module.css";

type Change = Schemas["LightChange"];
type Lamp = Schemas["SceneBody"]["lamps"][number];

/** What can be said of a lamp beyond on and strength, by what has a meaning for its kind. */
const more: { key: keyof Change; for: (kind: string, l: Change) => boolean }[] = [
  { key: "size", for: (kind) => ["rectangle", "disk", "sphere"].includes(kind) },
  { key: "sizeKeeps", for: (kind, l) => l.size !== 1 && ["rectangle", "disk", "sphere"].includes(kind) },
  { key: "reach", for: (kind) => kind !== "sun" },
  { key: "samples", for: () => true },
  { key: "camera", for: (kind) => ["rectangle", "disk", "sphere"].includes(kind) },
  { key: "reflections", for: () => true },
  { key: "shadows", for: () => true },
];

/** LampRows is one light of the scene: on, strength, and on request the rest. */
export function LampRows({ lamp }: { lamp: Lamp }) {
  const { ticket, set } = useEditing();
  const { data } = useSettings();
  const [open, setOpen] = useState(false);
  const settings = data?.settings ?? [];
  const setting = (key: string) => settings.find((s) => s.path === `stage.lights[].${key}`);
  const asFound = Object.fromEntries(
    settings
      .filter((s) => s.path.startsWith("stage.lights[]."))
      .map((s) => [s.path.slice("stage.lights[].".length), s.default]),
  ) as unknown as Change;
  const lights = ticket.stage.lights;
  const l = lights.find((x) => x.name === lamp.name) ?? { ...asFound, name: lamp.name };
  const put = (change: Partial<Change>) => {
    const next = { ...l, ...change };
    set(
      "stage.lights",
      lights.some((x) => x.name === lamp.name)
        ? lights.map((x) => (x.name === lamp.name ? next : x))
        : [...lights, next],
    );
  };
  const rest = more.filter((m) => m.for(lamp.kind, l));
  const changed = rest.some((m) => l[m.key] !== asFound[m.key]);
  const strength = setting("strength");
  if (!strength) return null;
  return (
    <>
      <Row label={lamp.name} help={`A ${lamp.kind} of the scene. ${strength.help ?? ""}`}>
        <Switch size="small" checked={l.on} onChange={(on) => put({ on })} aria-label={`${lamp.name} on`} />
        <InputNumber
          size="small"
          value={l.strength}
          min={strength.min}
          max={strength.max}
          step={strength.step}
          suffix="x"
          {...disabledIf(!l.on)}
          aria-label={`${lamp.name} strength`}
          onChange={(n) => n !== null && put({ strength: n })}
        />
        <Button
          size="small"
          type="text"
          className={changed ? undefined : "faint"}
          aria-expanded={open}
          aria-label={`More about ${lamp.name}`}
          onClick={() => setOpen(!open)}
        >
          {open ? "less" : "more"}
        </Button>
      </Row>
      {open && (
        <div className={styles.more}>
          {rest.map(({ key }) => {
            const s = setting(key);
            return (
              s && (
                <Row key={key} label={s.label} help={helpOf(s)}>
                  <Control s={s} path={s.path} value={l[key]} set={(v) => put({ [key]: v })} />
                </Row>
              )
            );
          })}
        </div>
      )}
    </>
  );
}
