import { Link } from "react-router";
import { useRuns, type RunBody } from "../api/client";
import { useLive } from "../api/live";
import { Where } from "../app/Frame";
import { RunLine } from "../jobs/JobPage";
import { clock, stateWords } from "../parts/words";
import { Thumb } from "../proof/Thumb";
import "../jobs/jobs.css";
import "../proof/proof.css";
import "../scenes/scenes.css";

const ended = new Set(["done", "kept", "failed"]);

export function QueuePage() {
  const runs = useRuns();
  const open = (runs.data ?? []).filter((r) => !ended.has(r.run.state)).reverse();
  const past = (runs.data ?? []).filter((r) => ended.has(r.run.state));
  return (
    <div className="list-page">
      <Where>
        <b>Queue</b>
      </Where>
      <header>
        <h1>Now and next</h1>
      </header>
      {runs.error && <div className="notice">{runs.error.message}</div>}
      {open.length === 0 && (
        <p className="faint">Nothing is running or waiting. A job's amber button puts its run here.</p>
      )}
      {open.map((r) => (
        <Open key={r.run.id} run={r} />
      ))}
      <header style={{ marginTop: 32 }}>
        <h1>Ended</h1>
      </header>
      {past.map((r) => (
        <Link
          key={r.run.id}
          className="row"
          style={{ gridTemplateColumns: "72px 2fr 1fr 1fr 1fr" }}
          to={`/runs/${r.run.id}`}
        >
          <Thumb run={r} />
          <b>
            {r.job} {r.run.number}
          </b>
          <span>{stateWords[r.run.state]}</span>
          <span>{clock(r.run.seconds)} rendering</span>
          <span className="faint">{r.run.noise == null ? "" : `noise ${r.run.noise.toFixed(1)} %`}</span>
        </Link>
      ))}
    </div>
  );
}

function Open({ run }: { run: RunBody }) {
  const e = useLive((s) => s.events[run.run.id]);
  const share = e?.share ?? run.run.share;
  return (
    <div className="row" style={{ gridTemplateColumns: "72px 1fr" }}>
      <Thumb run={run} />
      <div>
        <b>
          {run.job} {run.run.number}
        </b>
        <div className="bar" style={{ width: "100%", margin: "6px 0" }}>
          <i style={{ width: `${share * 100}%` }} />
        </div>
        <RunLine run={run} />
      </div>
    </div>
  );
}
