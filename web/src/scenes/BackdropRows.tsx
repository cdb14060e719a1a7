import { Button, Tooltip } from "antd";
import { ColourRow } from "../shared/ColourRow";
import { SettingRow } from "../shared/SettingRow";
import type { Schemas } from "../api/http";
import type { Stage } from "./useBench";
import styles from "./StagePanel.module.css";

type Backdrop = Schemas["Backdrop"];
type Props = { stage: Stage; put: (change: Partial<Stage>, what?: string) => void; measure: () => void };

/** Which measures a kind of backdrop has. */
const measures: Record<string, (keyof Backdrop)[]> = {
  none: [],
  curved: ["width", "depth", "front", "height", "bend", "turn"],
  flat: ["width", "depth", "front", "turn"],
};

/** BackdropRows are what is under and behind the product. */
export function BackdropRows({ stage, put, measure }: Props) {
  const b = stage.backdrop;
  const set = (change: Partial<Backdrop>, what = "") => put({ backdrop: { ...b, ...change } }, what);
  const row = (key: keyof Backdrop) => (
    <SettingRow
      key={key}
      path={`setup.stage.backdrop.${key}`}
      values={[b[key]]}
      set={(v) => set({ [key]: v }, `backdrop ${key}`)}
    />
  );
  return (
    <>
      <h2>Backdrop</h2>
      {row("kind")}
      {b.kind !== "none" && (
        <>
          <ColourRow label="Tone" value={b.colour} set={(colour) => set({ colour })} />
          {row("roughness")}
          <h2>Measures</h2>
          {measures[b.kind]!.map(row)}
          <SettingRow
            path="setup.stage.floor"
            values={[stage.floor]}
            set={(v) => put({ floor: v as number }, "floor")}
          />
          <div className={styles.actions}>
            <Tooltip title="Its width, its front and its height, so that no saved view sees its edge, up to a frame of 16:9">
              <Button size="small" onClick={measure}>
                As large as the views need
              </Button>
            </Tooltip>
          </div>
        </>
      )}
    </>
  );
}
