import { AutoComplete } from "antd";
import { Row, helpOf, useEditing, useSetting } from "../shared/Field";
import type { SectionProps } from "./props";

/** CatcherParts say which parts are the floor that catches shadows. */
export function CatcherParts({ scene }: Pick<SectionProps, "scene">) {
  const { ticket, set, faults } = useEditing();
  const s = useSetting("stage.catcher.parts");
  const parts = scene.parts.filter((p) => !p.lamp).map((p) => ({ value: p.key }));
  return (
    <Row label={s?.label} help={s && helpOf(s)} fault={faults.find((f) => f.path === "stage.catcher.parts")?.message}>
      <AutoComplete
        size="small"
        value={ticket.stage.catcher.parts}
        placeholder="endless floor"
        aria-label="Floor"
        allowClear
        options={parts}
        filterOption={(typed, o) => String(o?.value).toLowerCase().includes(typed.toLowerCase())}
        onChange={(v: string | undefined) => set("stage.catcher.parts", v ?? "")}
      />
    </Row>
  );
}
