import type { Schemas, Ticket } from "../api/http";

const worn: Record<string, string> = {
  keep: "keeps its finish",
  wear: "wears the clay",
  second: "wears the second clay",
  third: "wears the third clay",
  shadow: "is there by its shadow only",
  omit: "is left out",
};

/** ruleWords say what a keep rule looks at. */
export const ruleWords = (r: Schemas["KeepRule"]) =>
  r.by === "parts" ? "by hand" : r.by === "size" ? `size under ${r.below ?? 0} mm` : `${r.by} ${r.match}`;

/** whyWorn says what a part wears under a clay plan, and which rule said so. */
export function whyWorn(ticket: Ticket, clay: Schemas["Dressed"][], part: Schemas["PartBody"]): string {
  if (ticket.surface.mode === "own") return `${part.name} wears ${part.finish}`;
  const d = clay.find((c) => c.part === part.key);
  if (!d) return `${part.name} is a light of the stage and keeps its finish`;
  const r = ticket.surface.clay.rules[d.rule];
  if (!r) return `${part.name} ${worn[d.do]}: no rule matches it`;
  return `${part.name} ${worn[d.do]}: rule ${d.rule + 1}, ${ruleWords(r)}`;
}
