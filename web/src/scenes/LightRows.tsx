import { Button } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import { ColourRow } from "../shared/ColourRow";
import { SettingRow, shared } from "../shared/SettingRow";
import { read, write, type PathOf } from "../shared/path";
import styles from "./LightRows.module.css";

type Gives = Schemas["LitBody"] | undefined;

export type Light = Schemas["Light"];

type Props = {
  lights: Light[];
  gives: Gives[];
  /** Changes all of them; k is the light's place among lights. */
  change: (f: (l: Light, k: number) => Light, what?: string) => void;
  /** Asks for the point to aim at. */
  aim: () => void;
};

/** What a strength is counted in, by what it is a number of. */
const units: Record<string, { unit: string; of: (g: NonNullable<Gives>) => number }> = {
  lux: { unit: "lx", of: (g) => g.lux },
  power: { unit: "lm", of: (g) => g.lumen },
  brightness: { unit: "nit", of: (g) => g.nit },
};

const flat = (kind: string | undefined) => kind === "rectangle" || kind === "disk";

/** LightRows are the values of one light, or of several at once. */
export function LightRows({ lights, gives, change, aim }: Props) {
  const [more, setMore] = useState(false);
  const kind = shared(lights.map((l) => l.kind));
  const held = shared(lights.map((l) => l.held));
  const tinted = shared(lights.map((l) => l.tinted));
  const suns = lights.some((l) => l.kind === "sun");
  const row = (path: PathOf<Light>, o: { label?: string; unit?: string } = {}) => (
    <SettingRow
      key={path}
      path={`setup.stage.lights[].${path}`}
      values={lights.map((l) => read(l, path))}
      set={(v) => change((l) => write(l, path, v), path)}
      {...o}
    />
  );
  return (
    <div className={styles.rows} data-testid="light">
      {row("kind")}
      {row("direction")}
      {row("height")}
      {!suns && row("distance")}
      <div className={styles.aim}>
        <Button size="small" onClick={aim}>
          Aim in the picture
        </Button>
        <Button size="small" type="text" onClick={() => change((l) => ({ ...l, aim: { x: 0, y: 0, z: 0 } }))}>
          At the middle
        </Button>
      </div>
      {kind === "sun" ? row("disc") : row("width", flat(kind) && kind === "rectangle" ? {} : { label: "Diameter" })}
      {kind === "rectangle" && row("length")}
      {kind === "spot" && row("cone")}
      {kind === "spot" && row("soft")}
      {!suns && (
        <SettingRow
          path="setup.stage.lights[].held"
          values={lights.map((l) => l.held)}
          // The picture stays: the number is what it is in the other way to say it.
          set={(v) =>
            change((l, k) => {
              const g = gives[k];
              const to = units[v as string]!;
              const is = g ? to.of(g) : 0;
              return is > 0 ? { ...l, held: v as Light["held"], strength: +is.toPrecision(5) } : l;
            })
          }
        />
      )}
      {row("strength", { unit: suns ? "lx" : held === undefined ? "" : units[held]!.unit })}
      {row("tinted")}
      {tinted === "temperature" && row("kelvin")}
      {tinted === "temperature" && row("tint")}
      {tinted === "colour" && (
        <ColourRow label="Colour" value={lights[0]!.colour} set={(colour) => change((l) => ({ ...l, colour }))} />
      )}
      {row("camera")}
      {more && (
        <>
          {row("reflections")}
          {row("shadows")}
          {row("aim.x")}
          {row("aim.y")}
          {row("aim.z")}
        </>
      )}
      <Button size="small" type="text" onClick={() => setMore(!more)} aria-expanded={more}>
        {more ? "Fewer values" : "More values"}
      </Button>
    </div>
  );
}
