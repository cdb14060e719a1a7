import { Button } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import { SettingRow } from "../shared/SettingRow";
import { SurroundSelect } from "../shared/SurroundSelect";
import type { SceneBody } from "../api/scenes";
import { TriedSurrounds } from "./TriedSurrounds";
import type { Bench, Stage } from "./useBench";
import styles from "./StagePanel.module.css";

type Surround = Schemas["SurroundSetting"];

type Props = {
  scene: SceneBody;
  stage: Stage;
  bench: Bench;
  put: (change: (now: Stage) => Partial<Stage>, what?: string) => void;
  camera: Schemas["Camera"];
  ask: (a: { what: string; answer: (a: { value: () => Promise<number[] | null> }) => void }) => void;
};

/** What a right exposure shows mid grey as, scene-linear. */
const midGrey = 0.18;

/** SurroundRows are what lights the product from all round, and how bright the picture is. */
export function SurroundRows({ scene, stage, bench, put, camera, ask }: Props) {
  const [trying, setTrying] = useState(false);
  const begins = stage.begins!;
  const su = begins.surround;
  const set = (change: Partial<Surround>, what = "") =>
    put(({ begins }) => ({ begins: { ...begins!, surround: { ...begins!.surround, ...change } } }), what);
  const row = (key: keyof Surround) => (
    <SettingRow
      key={key}
      path={`setup.stage.begins.surround.${key}`}
      values={[su[key]]}
      set={(v) => set({ [key]: v }, `surround ${key}`)}
    />
  );
  const exposure = (v: number, what = "") => put(({ begins }) => ({ begins: { ...begins!, exposure: v } }), what);
  return (
    <>
      <h2>Surround</h2>
      {row("on")}
      {su.on && (
        <>
          {row("kind")}
          {su.kind === "sky" ? (
            ["sun" as const, "haze" as const, "turn" as const].map(row)
          ) : (
            <>
              <SurroundSelect picture={su.picture} set={(picture) => set({ picture })} />
              {row(su.picture.name === "" ? "tone" : "turn")}
            </>
          )}
          {row("strength")}
          {su.kind === "picture" && (
            <div className={styles.actions}>
              <Button size="small" onClick={() => setTrying(!trying)} aria-expanded={trying}>
                {trying ? "Put the contact sheet away" : "Try all pictures on a contact sheet"}
              </Button>
            </div>
          )}
          {trying && su.kind === "picture" && (
            <TriedSurrounds scene={scene} camera={camera} surround={su} take={(picture) => set({ picture })} />
          )}
        </>
      )}
      <h2>Exposure</h2>
      <SettingRow
        path="setup.stage.begins.exposure"
        values={[begins.exposure]}
        set={(v) => exposure(v as number, "exposure")}
      />
      <div className={styles.actions}>
        <Button
          size="small"
          onClick={() =>
            ask({
              what: "Click something that should be mid grey, such as a grey card",
              answer: ({ value }) =>
                bench.awaits(
                  value().then((v) => {
                    if (!v) throw new Error("There is nothing to measure there. Click inside the live picture.");
                    const light = 0.2126 * v[0]! + 0.7152 * v[1]! + 0.0722 * v[2]!;
                    if (light <= 0) throw new Error("That is black. Click something that should be mid grey.");
                    exposure(Math.max(-32, Math.min(32, +Math.log2(midGrey / light).toFixed(2))));
                  }),
                ),
            })
          }
        >
          Measure exposure from a grey
        </Button>
      </div>
      <p className="faint">New jobs of this scene begin with this surround and exposure.</p>
    </>
  );
}
