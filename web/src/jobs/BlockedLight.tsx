import { Button } from "antd";
import type { Schemas } from "../api/http";
import { useEditing } from "../shared/Field";
import { useBlocked } from "../api/jobs";
import styles from "./BlockedLight.module.css";

type Blocking = Schemas["Blocking"];

const share = (s: Schemas["Estimated"]) => `${s.percent.toFixed(0)} % ± ${Math.ceil(s.error)}`;

const byLight = (b: Blocking) =>
  [
    `${share(b.all)} of the light on all that the picture shows`,
    ...b.byLight.map((d) => `${d.light}: ${share(d.of)}`),
  ].join("\n");

type Props = { job: number; version: number; setup: number; light: (keys: string[]) => void };

/** BlockedLight tells before a run what light the clay would take that finishes let through. */
export function BlockedLight({ job, version, setup, light }: Props) {
  const { ticket, set } = useEditing();
  const plan = ticket.surface.clay;
  const clay = ticket.surface.mode !== "own";
  const found = useBlocked(job, version, setup, clay);
  if (!clay) return null;
  if (found.error) return <div role="alert">{found.error.message}</div>;
  const parts = found.data?.parts ?? [];
  if (!found.data || parts.length === 0) return null;
  const keep = (part: string) => {
    const [first, ...rest] = plan.rules;
    const mine = first && first.by === "parts" && first.do === "keep" ? first : undefined;
    if (mine?.parts?.includes(part)) return; // pressed again before the list is answered anew
    set("surface.clay.rules", [
      { by: "parts", match: "", do: "keep", parts: [...(mine?.parts ?? []), part] },
      ...(mine ? rest : plan.rules),
    ]);
  };
  return (
    <div className={styles.blocked} role="status" aria-label="Light that clay would block">
      <b>This clay would block {share(found.data.all)} of the light</b>
      {parts.slice(0, few).map((b) => (
        <div key={b.part} className={styles.row}>
          <button title={byLight(b)} onClick={() => light([b.part])}>
            {b.says}
          </button>
          {!plan.only && (
            <Button size="small" onClick={() => keep(b.part)} aria-label={`Keep ${b.part}`}>
              Keep it
            </Button>
          )}
        </div>
      ))}
      {parts.length > few && <div className="faint">and {parts.length - few} more</div>}
    </div>
  );
}

/** How many parts are told at once. */
const few = 4;
