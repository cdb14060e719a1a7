import { Button } from "antd";
import type { Schemas } from "../api/http";
import type { SceneBody } from "../api/scenes";
import { useEditing } from "../shared/Field";
import { hitsOf } from "./RuleTools";
import { ruleWords } from "./whyWorn";
import styles from "./TakenPlan.module.css";

type Props = { scene: SceneBody; outlook?: Schemas["Outlook"]; close: () => void };

/** TakenPlan lists what the rules of a plan that was taken from the library match in this scene. */
export function TakenPlan({ scene, outlook, close }: Props) {
  const { ticket } = useEditing();
  const rules = ticket.surface.clay.rules;
  if (outlook?.ruleMatches.length !== rules.length) return <p className="faint">Matching the plan with this scene</p>;
  const here = new Set(scene.parts.map((p) => p.key));
  return (
    <div className={styles.taken} role="status" aria-label="What the plan matched">
      <b>What the plan matched</b>
      <ul>
        {rules.map((r, i) => {
          const gone = r.parts.filter((p) => !here.has(p));
          const matches = outlook.ruleMatches[i]!;
          const decides = outlook.ruleHits[i]!;
          return (
            <li key={i}>
              {i + 1}, {ruleWords(r)}: {matches === 0 ? "nothing here" : hitsOf(matches)}
              {matches > decides && `, ${decides === 0 ? "none" : hitsOf(decides)} not decided above`}
              {gone.length > 0 &&
                `; not here: ${gone.slice(0, 3).join(", ")}${gone.length > 3 ? ` and ${gone.length - 3} more` : ""}`}
            </li>
          );
        })}
        {rules.length === 0 && <li>The plan has no rules.</li>}
      </ul>
      <Button size="small" type="text" onClick={close}>
        Close
      </Button>
    </div>
  );
}
