import { Button, Switch } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import type { SceneBody } from "../api/scenes";
import { ColourRow } from "../shared/ColourRow";
import { luminance } from "../shared/colour";
import { Field, Row, useEditing } from "../shared/Field";
import { SettingRow } from "../shared/SettingRow";
import { TriedReaches } from "./TriedReaches";
import styles from "./ClayRows.module.css";

type Clay = Schemas["ClayPlan"];
type Outlook = Schemas["Outlook"] | undefined;

/** Clays to begin with: what they look like is all in their numbers. */
const ready: [string, Partial<Clay>][] = [
  ["Pale matte", { toneAs: "reflectance", tone: 0.72, secondTone: 0.34, roughness: 1 }],
  ["Mid grey", { toneAs: "reflectance", tone: 0.18, secondTone: 0.07, roughness: 1 }],
  ["Rough plastic", { toneAs: "reflectance", tone: 0.5, secondTone: 0.22, roughness: 0.7 }],
  [
    "Glossy",
    { toneAs: "reflectance", tone: 0.3, secondTone: 0.12, roughness: 1, gloss: { amount: 100, roughness: 0.06 } },
  ],
];

const clays = [
  { tone: "tone", shown: "shown", tint: "tint", label: "Tint" },
  { tone: "secondTone", shown: "secondShown", tint: "secondTint", label: "Second tint" },
  { tone: "thirdTone", shown: "thirdShown", tint: "thirdTint", label: "Third tint" },
] as const;

/** Between these a clay's reflectance can be. */
const leastTone = 0.02;
const mostTone = 0.95;

/** What is put in place of a clay plan, without what it is to be without. */
function usePlan() {
  const { ticket, set } = useEditing();
  const clay = ticket.surface.clay;
  return {
    clay,
    put: (more: Partial<Clay>, without: (keyof Clay)[] = []) => {
      const next = { ...clay, ...more };
      for (const k of without) delete next[k];
      set("surface.clay", next);
    },
  };
}

/** ClayRows are the clays themselves: tones, hue, roughness, gloss. */
export function ClayRows() {
  const { clay, put } = usePlan();
  const third = clay.rules.some((r) => r.do === "third");
  return (
    <>
      <Row label="Clay presets" help="A starting point; any value can be changed below." wide>
        <div className={styles.ready}>
          {ready.map(([name, plan]) => (
            <Button
              key={name}
              size="small"
              onClick={() =>
                put(
                  plan,
                  (["gloss", "tint", "secondTint", "thirdTint"] as const).filter((k) => !(k in plan)),
                )
              }
            >
              {name}
            </Button>
          ))}
        </div>
      </Row>
      <Field path="surface.clay.toneAs" />
      {clays.slice(0, third ? 3 : 2).map((c) => {
        const key = clay.toneAs === "shown" ? c.shown : c.tone;
        return (
          <SettingRow
            key={key}
            path={`surface.clay.${key}`}
            values={[clay[key] ?? 0]}
            set={(v) => put({ [key]: Number(v) })}
          />
        );
      })}
      <Row label="Tinted" help="A hue for all clays, at their own tones. Off, they are neutral.">
        <Switch
          size="small"
          aria-label="Tinted"
          checked={clays.some((c) => clay[c.tint])}
          onChange={(on) =>
            on ? put({ tint: { r: 0.62, g: 0.55, b: 0.46 } }) : put({}, ["tint", "secondTint", "thirdTint"])
          }
        />
      </Row>
      {clays.some((c) => clay[c.tint]) &&
        clays.slice(0, third ? 3 : 2).map((c) => (
          <ColourRow
            key={c.tint}
            label={c.label}
            value={clay[c.tint] ?? { r: 0.5, g: 0.5, b: 0.5 }}
            set={(v) =>
              put({
                [c.tint]: v,
                // The clay is as light as the colour that is picked.
                toneAs: "reflectance",
                [c.tone]: Math.min(mostTone, Math.max(leastTone, +luminance(v).toFixed(3))),
              })
            }
          />
        ))}
      <Field path="surface.clay.roughness" />
      <Row label="Gloss" help="A clear coat over the clay, to judge highlights.">
        <Switch
          size="small"
          aria-label="Gloss"
          checked={Boolean(clay.gloss)}
          onChange={(on) => (on ? put({ gloss: { amount: 100, roughness: 0.1 } }) : put({}, ["gloss"]))}
        />
      </Row>
      {clay.gloss &&
        (["amount", "roughness"] as const).map((k) => (
          <SettingRow
            key={k}
            path={`surface.clay.gloss.${k}`}
            values={[clay.gloss![k]]}
            set={(v) => put({ gloss: { ...clay.gloss!, [k]: Number(v) } })}
          />
        ))}
    </>
  );
}

/** Crevices darken the clay where it is closed in. */
export function Crevices({ scene, outlook }: { scene: SceneBody; outlook: Outlook }) {
  const { clay, put } = usePlan();
  const [trying, setTrying] = useState(false);
  const c = clay.crevices;
  // To two digits, as somebody would say it.
  const reach = +(outlook?.reach ?? 10).toPrecision(2);
  return (
    <>
      <Row label="Crevices" help="Darkens joints, folds and contacts softly, in reflections and behind glass too.">
        <Switch
          size="small"
          aria-label="Crevices"
          checked={Boolean(c)}
          onChange={(on) =>
            on ? put({ crevices: { tone: +(clay.tone / 3).toFixed(2), reach } }) : put({}, ["crevices"])
          }
        />
      </Row>
      {c && (
        <>
          {(["tone", "reach"] as const).map((key) => (
            <SettingRow
              key={key}
              path={`surface.clay.crevices.${key}`}
              values={[c[key]]}
              set={(v) => put({ crevices: { ...c, [key]: Number(v) } })}
            />
          ))}
          <Button size="small" type="text" aria-expanded={trying} onClick={() => setTrying(!trying)}>
            {trying ? "Put the tries away" : "Try five reaches"}
          </Button>
          {trying && <TriedReaches scene={scene} proposed={reach} />}
          {outlook && c.reach !== reach && (
            <p className="faint">
              Half of the parts are thicker than {+outlook.thick.toPrecision(2)} mm
              {outlook.gap > 0 && `, half of the gaps between them narrower than ${+outlook.gap.toPrecision(2)} mm`}: by
              that it would be{" "}
              <Button size="small" type="text" onClick={() => put({ crevices: { ...c, reach } })}>
                {reach} mm
              </Button>
            </p>
          )}
        </>
      )}
    </>
  );
}

const lineBegins: Schemas["Lines"] = {
  creases: true,
  angle: 30,
  outlines: true,
  borders: true,
  boundaries: true,
  weight: 1,
  by: "height",
  tone: 0,
  fade: false,
  through: true,
  as: "picture",
};

/** EdgeLines are lines along creases, outlines, borders and where parts meet. */
export function EdgeLines() {
  const { clay, put } = usePlan();
  const l = clay.lines;
  return (
    <>
      <Row label="Edge lines" help="Lines drawn along edges, antialiased with the picture.">
        <Switch
          size="small"
          aria-label="Edge lines"
          checked={Boolean(l)}
          onChange={(on) => (on ? put({ lines: lineBegins }) : put({}, ["lines"]))}
        />
      </Row>
      {l &&
        (Object.keys(lineBegins) as (keyof Schemas["Lines"])[])
          .filter((k) => k !== "angle" || l.creases)
          .map((k) => (
            <SettingRow
              key={k}
              path={`surface.clay.lines.${k}`}
              values={[l[k]]}
              unit={k === "weight" ? (l.by === "pixels" ? "px" : "‰") : undefined}
              set={(v) => put({ lines: { ...l, [k]: v } })}
            />
          ))}
    </>
  );
}
