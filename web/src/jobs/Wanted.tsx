import { useMay } from "../api/projects";
import { useWanted } from "../api/rounds";
import { Fold } from "../shared/Fold";
import { SettleRemark } from "../shared/remarks/SettleRemark";
import styles from "./JobPage.module.css";

/** Wanted are the open remarks about settings of a job: those whose setting was changed are offered to be settled. */
export function Wanted({ job, project, version }: { job: number; project: number; version: number | undefined }) {
  const all = useWanted(job, version).data ?? [];
  const may = useMay(project, "change jobs");
  const one = (w: (typeof all)[number]) => (
    <SettleRemark key={w.id} {...w} may={may && w.changed.length > 0}>
      {w.changed.map((c) => (
        <div key={c} className="faint">
          {c}
        </div>
      ))}
    </SettleRemark>
  );
  const changed = all.filter((w) => w.changed.length > 0);
  const open = all.filter((w) => w.changed.length === 0);
  return (
    <div className={styles.wanted} data-testid="wanted">
      {changed.map(one)}
      {open.length > 0 && (
        <Fold line={open.length === 1 ? "1 open remark on settings" : `${open.length} open remarks on settings`}>
          {open.map(one)}
        </Fold>
      )}
    </div>
  );
}
