import { AutoComplete, Button, InputNumber, Segmented, Select } from "antd";
import { useMemo } from "react";
import type { Schemas } from "../api/http";
import { useEditing, useSetting } from "../shared/Field";
import { RuleTools, hitsOf } from "./RuleTools";
import type { SectionProps } from "./props";
import bits from "../shared/bits.module.css";
import field from "../shared/Field.module.css";
import styles from "./rules.module.css";

type Rule = Schemas["KeepRule"];

const doWords: Record<string, string> = {
  keep: "keep finish",
  second: "second clay",
  third: "third clay",
  shadow: "only its shadow",
  omit: "leave out",
};
/** In a plan for only these, what rules keep is what wears the clay. */
const onlyWords: Record<string, string> = { ...doWords, keep: "wear clay" };
const byWords: Record<string, string> = {
  kind: "kind",
  name: "name",
  group: "group",
  finish: "finish",
  size: "size",
  parts: "by hand",
};
const kindWords: Record<string, string> = {
  clear: "clear",
  glowing: "glowing",
  mirror: "mirror-like",
  textured: "with a picture",
};
/** What a rule looks for when it begins to look another way. */
const begins: Record<string, Partial<Rule>> = {
  kind: { match: "clear" },
  parts: { match: "" },
  size: { match: "", below: 10 },
};

/** KeepRules lists who does not wear the clay; the first rule that matches a part decides. */
export function KeepRules({ scene, outlook, light }: SectionProps) {
  const { ticket, faults, set } = useEditing();
  const by = useSetting("surface.clay.rules[].by");
  const act = useSetting("surface.clay.rules[].do");
  const rules = ticket.surface.clay.rules;
  const put = (r: Rule[]) => set("surface.clay.rules", r);
  const change = (i: number, c: Partial<Rule>) => put(rules.map((r, k) => (k === i ? { ...r, ...c } : r)));
  const parts = useMemo(() => scene.parts.filter((p) => !p.lamp).map((p) => ({ value: p.key, label: p.key })), [scene]);
  const finishes = useMemo(() => [...new Set(scene.parts.map((p) => p.finish))].map((f) => ({ value: f })), [scene]);
  const groups = useMemo(
    () => [...new Set(scene.parts.map((p) => p.group))].filter(Boolean).map((g) => ({ value: g })),
    [scene],
  );
  const only = ticket.surface.clay.only ?? false;
  const clearCovered =
    outlook?.clay.filter((d) => d.do !== "keep" && scene.parts.find((p) => p.key === d.part)?.clear) ?? [];
  return (
    <div className={styles.rules}>
      <div className={styles.only}>
        <Segmented
          size="small"
          block
          aria-label="Clay on"
          value={only ? "only" : "all"}
          onChange={(v) => set("surface.clay", { ...ticket.surface.clay, only: v === "only" })}
          options={[
            { value: "all", label: "Everything but these" },
            { value: "only", label: "Only these" },
          ]}
        />
      </div>
      {rules.map((r, i) => {
        const fault = faults.find((f) => f.path.startsWith(`surface.clay.rules[${i}]`))?.message;
        return (
          <div key={i} data-rule className={styles.rule}>
            <Select
              size="small"
              variant="borderless"
              value={r.by}
              aria-label={`Rule ${i + 1} matches by`}
              options={(by?.choices ?? []).map((c) => ({ value: c, label: byWords[c] ?? c }))}
              onChange={(b) => change(i, { by: b, match: "*", parts: [], below: 0, ...begins[b] })}
            />
            {r.by === "kind" && (
              <Select
                size="small"
                variant="borderless"
                value={r.match}
                aria-label={`Rule ${i + 1} kind`}
                popupMatchSelectWidth={false}
                options={Object.entries(kindWords).map(([value, label]) => ({ value, label }))}
                onChange={(match) => change(i, { match })}
              />
            )}
            {r.by === "size" && (
              <InputNumber
                size="small"
                variant="borderless"
                value={r.below ?? 0}
                min={0}
                prefix="under"
                suffix="mm"
                aria-label={`Rule ${i + 1} smaller than`}
                onChange={(v) => v !== null && change(i, { below: v })}
              />
            )}
            {(r.by === "name" || r.by === "finish" || r.by === "group") && (
              <AutoComplete
                size="small"
                variant="borderless"
                value={r.match}
                aria-label={`Rule ${i + 1} pattern`}
                options={r.by === "finish" ? finishes : r.by === "group" ? groups : []}
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
              options={(act?.choices ?? []).map((c) => ({ value: c, label: (only ? onlyWords : doWords)[c] ?? c }))}
              onChange={(d) => change(i, { do: d })}
            />
            <Hits
              name={`Rule ${i + 1}`}
              decides={outlook?.ruleHits[i]}
              matches={outlook?.ruleMatches[i]}
              light={() => light?.((outlook?.clay ?? []).filter((d) => d.rule === i).map((d) => d.part))}
            />
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

type HitsProps = { name: string; decides: number | undefined; matches: number | undefined; light: () => void };

/** Hits says how many parts a rule decides, and lights them up; where it decides none, why. */
function Hits({ name, decides, matches, light }: HitsProps) {
  const hidden = decides === 0 && (matches ?? 0) > 0;
  if (!decides)
    return (
      <span
        className={styles.hits}
        title={hidden ? `It matches ${hitsOf(matches)}, all of which rules above decide` : undefined}
      >
        {hidden ? "hidden" : hitsOf(decides)}
      </span>
    );
  return (
    <button className={styles.hits} onClick={light} aria-label={`${name}: show its ${hitsOf(decides)}`}>
      {hitsOf(decides)}
    </button>
  );
}
