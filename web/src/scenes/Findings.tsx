import { Button, Progress } from "antd";
import { useState } from "react";
import { useChecking, usePreflight, type SceneBody } from "../api/scenes";
import { FindingGroup, type Finding } from "./FindingGroup";
import type { Bench } from "./useBench";
import styles from "./Findings.module.css";

/** How many kinds of findings are listed before all are asked for. */
const few = 12;

/** Findings is what the preflight of a scene found, with what would mend it. */
export function Findings(p: { scene: SceneBody; bench: Bench; show: (f: Finding) => void }) {
  const report = usePreflight(p.scene);
  const waiting = report.isFetching && !report.data;
  const checking = useChecking(p.scene.scene.id, waiting);
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState(false); // what was put aside is shown
  const isAside = (f: Finding) =>
    p.bench.aside.some((a) => a.check === f.check && a.part === f.part && a.other === f.other);
  const everything = report.data?.findings ?? [];
  const aside = everything.filter(isAside);
  const found = open ? everything : everything.filter((f) => !isAside(f));
  const groups = [...Map.groupBy(found, (f) => f.check).values()];
  return (
    <>
      <h2>
        Preflight
        {report.data &&
          ` · ${everything.length === aside.length ? "nothing found" : `${everything.length - aside.length} found`}`}
      </h2>
      {report.error && <p role="alert">{report.error.message}</p>}
      {waiting && (
        <Progress
          percent={Math.round(100 * (checking.data?.share ?? 0))}
          size="small"
          aria-label="Checking the scene"
        />
      )}
      <ul className={styles.list} aria-label="Findings">
        {groups.slice(0, all ? undefined : few).map((of) => (
          <FindingGroup key={of[0]!.check} all={of} bench={p.bench} isAside={isAside} show={p.show} />
        ))}
      </ul>
      {groups.length > few && !all && (
        <Button size="small" type="text" onClick={() => setAll(true)}>
          All {groups.length}
        </Button>
      )}
      {aside.length > 0 && (
        <Button size="small" type="text" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Without what is intended" : `${aside.length} put aside`}
        </Button>
      )}
      {report.data && everything.length === 0 && (
        <p className="faint">Everything stands, fits and is closed where it has to be.</p>
      )}
      {p.scene.setup.found.length > 0 && (
        <>
          <h2>Matched again</h2>
          <ul className={styles.list} aria-label="Matched again">
            {p.scene.setup.found.map((f) => (
              <li key={f.part} className={styles.finding}>
                <b>{f.part}</b> stands where <b>{f.was}</b> stood, and has its changes.
              </li>
            ))}
          </ul>
        </>
      )}
      {p.scene.setup.lost.length > 0 && (
        <>
          <h2>No longer matched</h2>
          <ul className={styles.list}>
            {p.scene.setup.lost.map((l, i) => (
              <li key={i} className={styles.finding}>
                <b>{l.part}</b>: {l.why}
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
