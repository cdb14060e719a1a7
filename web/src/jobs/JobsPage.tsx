import { Link } from "react-router";
import { useJobs, useRuns, useScenes } from "../api/client";
import { Where } from "../app/Frame";
import { Thumb } from "../proof/Thumb";
import { noise, stateWords } from "../parts/words";

export function JobsPage() {
  const jobs = useJobs();
  const scenes = useScenes();
  const runs = useRuns();
  return (
    <div className="list-page">
      <Where>
        <b>Jobs</b>
      </Where>
      <header>
        <h1>Jobs</h1>
      </header>
      {jobs.error && <div className="notice">{jobs.error.message}</div>}
      {jobs.data?.length === 0 && (
        <p className="faint">
          No job yet. Open a <Link to="/scenes">scene</Link> and make one for it.
        </p>
      )}
      {jobs.data?.map((j) => {
        const own = runs.data?.filter((r) => r.run.job === j.id) ?? [];
        const last = own[0];
        const t = j.ticket;
        return (
          <Link key={j.id} className="row" style={{ gridTemplateColumns: "72px 2fr 2fr 2fr" }} to={`/jobs/${j.id}`}>
            {last && last.run.samples > 0 ? <Thumb run={last} /> : <span className="thumb" />}
            <span>
              <b>{j.name}</b>
              <br />
              <span className="faint">{scenes.data?.find((s) => s.id === j.scene)?.name}</span>
            </span>
            <span>
              {t.view.name} · {t.surface.mode === "clay" ? "clay" : "own finishes"}
              <br />
              <span className="faint">
                {t.view.width} × {t.view.height} px at {t.view.scale} %
              </span>
            </span>
            <span>
              {last ? `Run ${last.run.number}, ${stateWords[last.run.state]}` : "not run yet"}
              <br />
              <span className="faint">{last && last.run.samples > 0 && noise(last.run.noise)}</span>
            </span>
          </Link>
        );
      })}
    </div>
  );
}
