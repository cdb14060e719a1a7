import { Button, Tooltip } from "antd";
import { useState } from "react";
import { useSettings } from "../api/jobs";
import { ColourRow } from "../shared/ColourRow";
import { hexOf, type Linear } from "../shared/colour";
import { SettingRow } from "../shared/SettingRow";
import { count } from "../shared/words";
import { MapRows } from "./MapRows";
import { ballOf, type SceneBody } from "../api/scenes";
import type { Bench, Finish } from "./useBench";
import styles from "./FinishRows.module.css";

type Key = Exclude<
  keyof Finish,
  "name" | "from" | "made" | "baseMap" | "roughnessMap" | "metalMap" | "glowMap" | "normalMap" | "heightMap"
>;

/** What a value is that says how much more or less, while nothing was said. */
const factors: Partial<Record<Key, number>> = { bumps: 1, tiling: 1, mapTurn: 0 };

/** What can be said of a finish: first what is wanted daily, then the rest, by what has a meaning for it. */
const values: { key: Key; rare?: boolean; for?: (f: SceneBody["finishes"][number]) => boolean }[] = [
  { key: "base" },
  { key: "roughness" },
  { key: "metal" },
  { key: "glow", for: (f) => f.glow > 0 },
  { key: "clear", rare: true },
  { key: "index", rare: true },
  { key: "solid", rare: true, for: (f) => f.clear > 0 },
  { key: "abbe", rare: true, for: (f) => f.clear > 0 && f.solid },
  { key: "shadows", rare: true, for: (f) => f.clear > 0 },
  { key: "tint", rare: true, for: (f) => f.clear > 0 },
  { key: "tintDepth", rare: true, for: (f) => f.clear > 0 },
  { key: "coat", rare: true },
  { key: "coatRoughness", rare: true, for: (f) => f.coat > 0 },
  { key: "bumps", for: (f) => f.bumped },
  { key: "greenDown", rare: true, for: (f) => f.bumped },
  { key: "tiling", rare: true, for: (f) => f.mapped },
  { key: "mapTurn", rare: true, for: (f) => f.mapped },
  { key: "brushed", rare: true },
  { key: "brushTurn", rare: true, for: (f) => f.brushed > 0 },
  { key: "sheen", rare: true },
  { key: "sheenRoughness", rare: true, for: (f) => f.sheen.r + f.sheen.g + f.sheen.b > 0 },
  { key: "film", rare: true },
  { key: "filmIndex", rare: true, for: (f) => f.film > 0 },
  { key: "filmThickness", rare: true, for: (f) => f.film > 0 },
  { key: "glow", rare: true, for: (f) => f.glow === 0 },
];

/** free is a name that no finish of the scene has. */
function free(scene: SceneBody, name: string): string {
  const taken = new Set(scene.finishes.map((f) => f.name));
  let n = 1;
  let out = name;
  while (taken.has(out)) out = `${name} ${++n}`;
  return out;
}

/** FinishRows changes a finish, and with it all that wear it; or gives what is picked a copy of its own. */
export function FinishRows(p: { scene: SceneBody; bench: Bench; name: string; picked: number[] }) {
  const { scene, bench, name } = p;
  const { data } = useSettings();
  const [open, setOpen] = useState(false);
  const [all, setAll] = useState(false);
  const is = scene.finishes.slice(0, -1).find((f) => f.name === name);
  if (!is) return null;
  const changed = bench.finish(name);
  const worn = scene.parts.filter((x) => x.finish === name).length;
  const put = (key: Key, value: unknown) => bench.put({ finishes: [{ ...changed, [key]: value }] }, `${key} ${name}`);
  const back = (key: Key) => {
    const { [key]: _, ...rest } = changed;
    bench.put({ finishes: [rest] });
  };
  const loose = () => {
    const own = free(scene, p.picked.length === 1 ? `${name}, ${scene.parts[p.picked[0]!]!.key}` : `${name}, apart`);
    bench.put({
      finishes: [{ ...changed, name: own, from: changed.from || name }],
      parts: p.picked.map((i) => ({ ...bench.of(i), finish: own })),
    });
  };
  const rows = values.filter((v) => (all || !v.rare) && (v.for?.(is) ?? true));
  return (
    <div className={styles.finish}>
      <Button
        size="small"
        type="text"
        className={styles.head}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        data-testid="finish"
      >
        <img
          className={styles.ball}
          style={{ background: hexOf({ r: is.drawn[0]!, g: is.drawn[1]!, b: is.drawn[2]! }) }}
          src={ballOf(scene, name)}
          alt=""
        />
        Finish{changed.from && `, a copy of ${changed.from}`}, worn by {count(worn, "part")}
      </Button>
      {open && (
        <>
          {rows.map(({ key }) => {
            const s = data?.settings.find((x) => x.path === `setup.finishes[].${key}`);
            if (!s) return null;
            const value = changed[key] ?? factors[key] ?? is[key as keyof typeof is];
            const before = changed[key] !== undefined && !changed.made && (
              <Tooltip title="Back to what the file has">
                <Button size="small" type="text" aria-label={`${s.label} as the file has it`} onClick={() => back(key)}>
                  changed
                </Button>
              </Tooltip>
            );
            return s.kind === "group" ? (
              <ColourRow key={key} label={s.label} value={value as Linear} set={(c) => put(key, c)} before={before} />
            ) : (
              <SettingRow key={key} path={s.path} values={[value]} set={(v) => put(key, v)} before={before} />
            );
          })}
          <MapRows finish={changed} put={(f, what) => bench.put({ finishes: [f] }, what && `${what} ${name}`)} />
          <div className={styles.actions}>
            <Button size="small" type="text" onClick={() => setAll(!all)}>
              {all ? "Fewer values" : "More values"}
            </Button>
            {worn > p.picked.length && (
              <Tooltip title="Give what is picked a copy of its own: the others no longer change with it">
                <Button size="small" onClick={loose}>
                  Set loose
                </Button>
              </Tooltip>
            )}
          </div>
        </>
      )}
    </div>
  );
}
