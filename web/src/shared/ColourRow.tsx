import { ColorPicker, InputNumber } from "antd";
import type { ReactNode } from "react";
import { Row } from "./Field";
import styles from "./ColourRow.module.css";
import { hexOf, linearOf, type Linear } from "./colour";

const channels = { r: "Red", g: "Green", b: "Blue" } as const;

/** ColourRow is a colour, picked as the display shows it, or given in scene-linear numbers. */
export function ColourRow(p: { label: string; value: Linear; set: (c: Linear) => void; before?: ReactNode }) {
  return (
    <Row label={p.label} help="In sRGB; its panel also shows scene-linear values.">
      {p.before}
      <ColorPicker
        size="small"
        disabledAlpha
        showText={!p.before} // there is room for one of them
        value={hexOf(p.value)}
        onChangeComplete={(c) => p.set(linearOf(c.toRgb()))}
        panelRender={(panel) => (
          <>
            {panel}
            <div className={styles.linear} role="group" aria-label="Scene-linear">
              <span>linear</span>
              {(["r", "g", "b"] as const).map((c) => (
                <InputNumber
                  key={c}
                  size="small"
                  controls={false}
                  min={0}
                  max={1}
                  step={0.01}
                  aria-label={`${channels[c]}, scene-linear`}
                  value={+p.value[c].toPrecision(4)}
                  onChange={(v) => v !== null && p.set({ ...p.value, [c]: v })}
                />
              ))}
            </div>
          </>
        )}
      />
    </Row>
  );
}
