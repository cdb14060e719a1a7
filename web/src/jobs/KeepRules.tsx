import { AutoComplete, Button, Select } from "antd";
import { useMemo } from "react";
import type { Schemas } from "../api/http";
import { useEditing, useSetting } from "../shared/Field";
import { RuleTools, hitsOf } from "./RuleTools";
import type { SectionProps } from "./props";
import bits from "../shared/bits.module.css";
import field from "../shared/Field.module.css";
import styles from "./rules.module.css";

type Rule = Schemas["KeepRule"];

const doWords: Record<string, string> = { keep: "keep finish", second: "second clay", omit: "leave out" };
const byWords: Record<string, string> = { kind: "kind", name: "name", finish: "finish", parts: "by hand" };

/** KeepRules lists who does not wear the clay; the first rule that matches a part decides. */
export function KeepRules({ scene, outlook }: SectionProps) {
  const { ticket, faults, set } = useEditing();
  const by = useSetting("surface.clay.rules[].by");
  const act = useSetting("surface.clay.rules[].do");
  const rules = ticket.surface.clay.rules;
  const put = (r: Rule[]) => set("surface.clay.rules", r);
  const change = (i: number, c: Partial<Rule>) => put(rules.map((r, k) => (k === i ? { ...r, ...c } : r)));
  const parts = useMemo(() => scene.parts.filter((p) => !p.lamp).map((p) => ({ value: p.key, label: p.key })), [scene]);
  const finishes = useMemo(() => [...new Set(scene.parts.map((p) => p.finish))].map((f) => ({ value: f })), [scene]);
  const clearCovered =
    outlook?.clay.filter((d) => d.do !== "keep" && scene.parts.find((p) => p.key === d.part)?.clear) ?? [];
  return (
    <div className={styles.rules}>
      {rules.map((r, i) => {
        const fault = faults.find((f) => f.path.startsWith(`surface.clay.rules[${i}]`))?.message;
        return (
          <div key={i} className={styles.rule}>
            <Select
              size="small"
              variant="borderless"
              value={r.by}
              aria-label={`Rule ${i + 1} matches by`}
              options={(by?.choices ?? []).map((c) => ({ value: c, label: byWords[c] ?? c }))}
              onChange={(b) =>
                change(i, { by: b, match: b === "kind" ? "clear" : b === "parts" ? "" : "*", parts: [] })
              }
            />
            {r.by === "kind" && (
              <Select
                size="small"
                variant="borderless"
                value={r.match}
                aria-label={`Rule ${i + 1} kind`}
                options={[{ value: "clear" }, { value: "glowing" }]}
                onChange={(match) => change(i, { match })}
              />
            )}
            {(r.by === "name" || r.by === "finish") && (
              <AutoComplete
                size="small"
                variant="borderless"
                value={r.match}
                aria-label={`Rule ${i + 1} pattern`}
                options={r.by === "finish" ? finishes : []}
                onChange={(match) => change(i, { match })}
              />
            )}
            {r.by === "parts" && (
              <Select
                size="small"
                mode="multiple"
                variant="borderless"
                maxTagCount={1}
                placeholder="pick parts"
                value={r.parts}
                aria-label={`Rule ${i + 1} parts`}
                options={parts}
                onChange={(p) => change(i, { parts: p })}
              />
            )}
            <Select
              size="small"
              variant="borderless"
              value={r.do}
              aria-label={`Rule ${i + 1} then`}
              options={(act?.choices ?? []).map((c) => ({ value: c, label: doWords[c] ?? c }))}
              onChange={(d) => change(i, { do: d })}
            />
            <span className={styles.hits}>{hitsOf(outlook?.ruleHits[i])}</span>
            <RuleTools name={`rule ${i + 1}`} at={i} list={rules} put={put} />
            {fault && <span className={field.fault}>{fault}</span>}
          </div>
        );
      })}
      <Button
        size="small"
        type="text"
        onClick={() => put([...rules, { by: "name", match: "*", parts: [], do: "keep" }])}
      >
        Add a rule
      </Button>
      {clearCovered.length > 0 && (
        <div className={bits.notice}>
          {clearCovered.length === 1
            ? `${clearCovered[0]!.part} is clear and wears clay`
            : `${clearCovered.length} clear parts wear clay`}
          : what lies behind gets dark.{" "}
          <Button
            size="small"
            type="link"
            onClick={() => put([{ by: "kind", match: "clear", parts: [], do: "keep" }, ...rules])}
          >
            Keep clear parts
          </Button>
        </div>
      )}
    </div>
  );
}
