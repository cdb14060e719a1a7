import { Tabs } from "antd";
import { plainOf, type RunDetail } from "../api/runs";
import { Thumb } from "../shared/proof/Thumb";
import { best, like, passGroups } from "./passGroups";
import bits from "../shared/bits.module.css";
import styles from "./ProofPage.module.css";

type Props = { run: RunDetail; chosen: RunDetail["passes"][number]; choose: (key: string) => void };

/** PassStrip shows every pass small, to choose one from; of a picture that is denoised too, one. */
export function PassStrip({ run, chosen, choose }: Props) {
  const going = run.run.state === "running" || run.run.state === "stopping";
  const groups = passGroups(run);
  const at = groups.findIndex((g) => g.passes.includes(chosen));
  return (
    <Tabs
      className={styles.film}
      activeKey={`${at}`}
      onChange={(k) => choose(like(groups[Number(k)]!, chosen).key)}
      aria-label="Passes"
      items={groups.map((g, i) => {
        const shown = i === at && !chosen.data ? chosen : best(g);
        return {
          key: `${i}`,
          label: (
            <span className={`${bits.kept} ${styles.pass} ${i === at ? bits.chosen : ""}`}>
              {/* While a run goes on, denoising is left for the picture that is looked at. */}
              <Thumb run={run.run} pass={going ? plainOf(shown.key) : shown.key} />
              <span className="mono">{g.title}</span>
            </span>
          ),
        };
      })}
    />
  );
}
