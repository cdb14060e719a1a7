import { AutoComplete, Button, InputNumber, Select } from "antd";
import { useMemo } from "react";
import type { Schemas } from "../api/http";
import { useEditing, useSetting } from "../shared/Field";
import { RuleTools, hitsOf } from "./RuleTools";
import type { SectionProps } from "./props";
import bits from "../shared/bits.module.css";
import field from "../shared/Field.module.css";
import styles from "./rules.module.css";

type Rule = Schemas["ShapeRule"];

const shadingWords: Record<string, string> = { saved: "as saved", smooth: "smooth", faceted: "faceted" };

/** ShapeRules say which parts are subdivided or smoothed; the first rule that matches a part decides. */
export function ShapeRules({ scene, outlook }: SectionProps) {
  const { ticket, faults, set } = useEditing();
  const levels = useSetting("surface.shapes[].levels");
  const shading = useSetting("surface.shapes[].shading");
  const crease = useSetting("surface.shapes[].crease");
  const rules = ticket.surface.shapes;
  const put = (r: Rule[]) => set("surface.shapes", r);
  const change = (i: number, c: Partial<Rule>) => put(rules.map((r, k) => (k === i ? { ...r, ...c } : r)));
  const parts = useMemo(() => scene.parts.filter((p) => !p.lamp).map((p) => ({ value: p.key })), [scene]);
  const whole = faults.find((f) => f.path === "surface.shapes")?.message;
  return (
    <div className={styles.rules}>
      {rules.map((r, i) => {
        const fault = faults.find((f) => f.path.startsWith(`surface.shapes[${i}]`))?.message;
        // One choice tells both: how often it is subdivided, or how it is shaded as it is.
        const how = r.levels > 0 ? String(r.levels) : r.shading;
        return (
          <div key={i} data-rule className={`${styles.rule} ${styles.shape}`}>
            <AutoComplete
              size="small"
              variant="borderless"
              value={r.match}
              aria-label={`Shape rule ${i + 1} parts`}
              options={parts}
              filterOption={(typed, o) => String(o?.value).toLowerCase().includes(typed.toLowerCase())}
              onChange={(match) => change(i, { match })}
            />
            <Select
              size="small"
              variant="borderless"
              value={how}
              aria-label={`Shape rule ${i + 1} does`}
              popupMatchSelectWidth={false}
              options={[
                ...(shading?.choices ?? []).map((c) => ({ value: c, label: shadingWords[c] ?? c })),
                ...Array.from({ length: levels?.max ?? 0 }, (_, k) => ({
                  value: String(k + 1),
                  label: `subdivide ${k + 1} ×`,
                })),
              ]}
              onChange={(v) =>
                change(
                  i,
                  shading?.choices?.includes(v) ? { levels: 0, shading: v as Rule["shading"] } : { levels: Number(v) },
                )
              }
            />
            {r.levels > 0 || r.shading === "smooth" ? (
              <InputNumber
                size="small"
                variant="borderless"
                value={r.crease}
                min={crease?.min}
                max={crease?.max}
                step={crease?.step}
                suffix="°"
                controls={false}
                title={`${crease?.label ?? ""}. ${crease?.help ?? ""}`}
                aria-label={`Shape rule ${i + 1} keeps edges over`}
                onChange={(v) => v !== null && change(i, { crease: v })}
              />
            ) : (
              <span />
            )}
            <span className={styles.hits}>{hitsOf(outlook?.shapeHits[i])}</span>
            <RuleTools name={`shape rule ${i + 1}`} at={i} list={rules} put={put} />
            {fault && <span className={field.fault}>{fault}</span>}
          </div>
        );
      })}
      {whole && (
        <div className={bits.notice} role="alert">
          {whole}
        </div>
      )}
      <Button
        size="small"
        type="text"
        onClick={() =>
          put([...rules, { match: "*", levels: 2, shading: "saved", crease: Number(crease?.default ?? 50) }])
        }
      >
        Subdivide or smooth parts
      </Button>
    </div>
  );
}
