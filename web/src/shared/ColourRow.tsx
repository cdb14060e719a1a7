import { ColorPicker } from "antd";
import type { ReactNode } from "react";
import { Row } from "./Field";
import { hexOf, linearOf, type Linear } from "./colour";

/** ColourRow is a colour, picked as the display shows it. */
export function ColourRow(p: { label: string; value: Linear; set: (c: Linear) => void; before?: ReactNode }) {
  return (
    <Row label={p.label} help="As the display shows it, sRGB.">
      {p.before}
      <ColorPicker
        size="small"
        disabledAlpha
        showText={!p.before} // there is room for one of them
        value={hexOf(p.value)}
        onChangeComplete={(c) => p.set(linearOf(c.toRgb()))}
      />
    </Row>
  );
}
