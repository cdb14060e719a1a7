import { Button } from "antd";
import type { RunDetail } from "../api/runs";
import { bytes, commonStart } from "../shared/words";
import styles from "./ProofPage.module.css";

/** Deliveries are the files of a run, the newest set first; older ones are kept. */
export function Deliveries({ run }: { run: RunDetail }) {
  if (run.deliveries.length === 0)
    return <p className="faint">Files are written when the run is done, or stopped and kept.</p>;
  const nameOf = (path: string) => path.split("/").at(-1)!;
  const start = commonStart(run.deliveries[0]!.files.map((f) => nameOf(f.path)));
  const base = (n: number) => `/api/runs/${run.run.id}/deliveries/${n}`;
  return (
    <>
      {run.deliveries.map((d, i) => (
        <div key={d.number} className={styles.delivered}>
          {run.deliveries.length > 1 && (
            <div className="faint">
              Delivery {d.number}, {new Date(d.created).toLocaleString()}
              {!d.complete && ", before its target"}
            </div>
          )}
          {d.changed.length > 0 && <div className="faint">{d.changed.join("; ")}</div>}
          <Button
            type={i === 0 ? "primary" : "default"}
            block
            href={`${base(d.number)}/delivery.zip`}
            data-testid="zip"
          >
            Download {d.files.length === 1 ? "its file" : `all ${d.files.length} files`}
          </Button>
          {i === 0 && start && (
            <div className="mono faint" title="What the names of all files begin with">
              {start}
            </div>
          )}
          {(i === 0 ? d.files : []).map((f) => (
            <a
              key={f.path}
              className="mono"
              href={`${base(d.number)}/files/${f.path.split("/").map(encodeURIComponent).join("/")}`}
              title={`${nameOf(f.path)}, sha256 ${f.sha256}`}
              download
            >
              {nameOf(f.path).slice(start.length)} <span className="faint">{bytes(f.bytes)}</span>
              {f.valuesLimited > 0 && (
                <span className="faint"> · {f.valuesLimited} values limited to the largest half</span>
              )}
            </a>
          ))}
          {i === 0 && (
            <a className="mono" href={`${base(d.number)}/files/manifest.json`} download>
              manifest.json
            </a>
          )}
        </div>
      ))}
    </>
  );
}
