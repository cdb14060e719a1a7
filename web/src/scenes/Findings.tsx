import { Button, Progress } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import { useChecking, usePreflight, type SceneBody } from "./api";
import type { Bench } from "./useBench";
import styles from "./Findings.module.css";

export type Finding = Schemas["Finding"];

const titles: Record<Finding["check"], string> = {
  size: "Absurd size",
  floats: "Floats",
  sinks: "Sinks in",
  through: "Runs through",
  coincident: "Faces in one place",
  doubled: "There twice",
  bare: "No finish",
  open: "Glass with a hole",
  inward: "Inside out",
  inside: "Camera inside",
  edge: "Edge in sight",
  axis: "On its side",
  facets: "Facets show",
  coarse: "Picture too small",
  vast: "Picture far too large",
  green: "Bumps or dents",
  encoded: "Bumps saved as colours",
  clips: "Blown out",
  dark: "Too dark",
  mirrors: "Mirrors nothing",
  faint: "Light without effect",
  sole: "One light does it all",
};

/** How a finding is marked by how sure it is: by shape, not by hue. */
const marks: Record<Finding["sure"], { sign: string; says: string }> = {
  certain: { sign: "■", says: "certain" },
  likely: { sign: "◧", says: "likely a fault" },
  perhaps: { sign: "□", says: "may be meant" },
};

/** How many findings are listed before all are asked for. */
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
        {found.slice(0, all ? undefined : few).map((f, i) => (
          <li key={i} className={styles.finding} data-check={f.check}>
            <div className={styles.head}>
              <span title={marks[f.sure].says} aria-label={marks[f.sure].says}>
                {marks[f.sure].sign}
              </span>
              <b>{titles[f.check]}</b>
            </div>
            <div>{f.says}</div>
            <div className={styles.actions}>
              <Button size="small" type="text" onClick={() => p.show(f)}>
                Show me
              </Button>
              <Button
                size="small"
                type="text"
                onClick={() => {
                  const { check, part, other } = f;
                  const others = p.bench.aside.filter(
                    (a) => !(a.check === check && a.part === part && a.other === other),
                  );
                  p.bench.put({ aside: isAside(f) ? others : [...others, { check, part, other }] });
                }}
              >
                {isAside(f) ? "Not meant" : "It is meant"}
              </Button>
              {f.fix && (
                <Button
                  size="small"
                  onClick={() =>
                    p.bench.put({
                      parts: f.fix!.changes,
                      finishes: f.fix!.finishes,
                      ...(f.fix!.file && { file: f.fix!.file }),
                    })
                  }
                >
                  {f.fix.says}
                </Button>
              )}
            </div>
          </li>
        ))}
      </ul>
      {found.length > few && !all && (
        <Button size="small" type="text" onClick={() => setAll(true)}>
          All {found.length}
        </Button>
      )}
      {aside.length > 0 && (
        <Button size="small" type="text" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Without what is meant" : `${aside.length} put aside`}
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
