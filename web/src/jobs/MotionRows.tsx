import { Select } from "antd";
import { Field, Row, useEditing, useSetting } from "../shared/Field";
import type { SectionProps } from "./props";

/** MotionRows choose the moment of one of the scene's animations. */
export function MotionRows({ scene }: Pick<SectionProps, "scene">) {
  const { ticket, set, faults } = useEditing();
  const m = ticket.view.motion;
  const s = useSetting("view.motion.animation");
  return (
    <>
      <Row label="Animation" help={s?.help} fault={faults.find((f) => f.path === "view.motion.animation")?.message}>
        <Select
          size="small"
          value={m.animation}
          aria-label="Animation"
          options={[
            { value: "", label: "As saved" },
            ...scene.animations.map((a) => ({ value: a.name, label: `${a.name}, ${+a.length.toFixed(2)} s` })),
          ]}
          onChange={(n) => set("view.motion.animation", n)}
        />
      </Row>
      {m.animation !== "" && (
        <>
          <Field path="view.motion.moment" />
          <Field path="view.motion.blur" />
          {(m.blur || ticket.passes.motion) && <Field path="view.motion.shutter" />}
        </>
      )}
    </>
  );
}
