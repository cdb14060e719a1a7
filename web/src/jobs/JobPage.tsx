import { App, Button, Segmented, Tooltip } from "antd";
import { lazy, Suspense, useEffect, useMemo } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import {
  resumeRun,
  startRun,
  stopRun,
  keepRun,
  useChange,
  useOutlook,
  usePose,
  useRuns,
  useScene,
  type RunBody,
} from "../api/client";
import { useLive } from "../api/live";
import { Where } from "../app/Frame";
import { EditingContext } from "../parts/Field";
import { bytes, left, noise, percent, stateWords } from "../parts/words";
import { RunPicture } from "../proof/RunPicture";
import { Thumb } from "../proof/Thumb";
import { Docket } from "./Docket";
import { useTicket, type Saved } from "./useTicket";
import "../scenes/scenes.css";
import "./jobs.css";

const Turntable = lazy(() => import("../parts/Turntable"));

const savedWords: Record<Saved, string> = {
  saved: "saved",
  saving: "saving",
  faults: "not saved: it has faults",
  "changed elsewhere": "changed elsewhere",
  "not saved": "not saved: no answer",
};

export function JobPage() {
  const id = Number(useParams()["id"]);
  return <Job key={id} id={id} />;
}

function Job({ id }: { id: number }) {
  const t = useTicket(id);
  const scene = useScene(t.job.data?.scene);
  const outlook = useOutlook(id, t.version);
  const runs = useRuns(id);
  const motion = t.ticket?.view.motion;
  const pose = usePose(t.job.data?.scene, motion?.animation ?? "", motion?.moment ?? 0);
  const [query, setQuery] = useSearchParams();
  const { message } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const start = useChange(startRun, [["runs"], ["outlook", id]]);
  const showing = query.get("show") ?? "picture";
  const chosen = runs.data?.find((r) => String(r.run.id) === query.get("run")) ?? runs.data?.[0];
  const editing = useMemo(
    () => (t.ticket ? { ticket: t.ticket, faults: t.faults, set: t.set } : null),
    [t.ticket, t.faults, t.set],
  );

  const run = async () => {
    await t.flush();
    start.mutate(id, {
      ...fail,
      onSuccess: (r) => setQuery({ run: String(r.id) }),
    });
  };

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const ctrl = e.ctrlKey || e.metaKey;
      const k = e.key.toLowerCase();
      if (ctrl && k === "z") {
        e.preventDefault();
        (e.shiftKey ? t.redo : t.undo)();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [t.undo, t.redo]);

  if (t.job.error) return <div className="empty">{t.job.error.message}</div>;
  if (!editing || !scene.data || !t.job.data) return <div className="empty">Opening the job</div>;
  const ticket = editing.ticket;
  const lens = ticket.view.lens;
  const posed = ticket.view.motion.animation === "" ? undefined : pose.data;
  const views = posed?.views ?? scene.data.views;
  const view = views.find((v) => v.name === ticket.view.name) ?? views[0];
  const o = outlook.data;
  const faults = t.faults.length > 0 ? t.faults : (o?.faults ?? []);

  return (
    <EditingContext.Provider value={editing}>
      <div className="job-page">
        <Where>
          <span className="faint">Jobs / {scene.data.scene.name} /</span>
          <b>{t.job.data.name}</b>
          <span className="stamp" data-testid="saved">
            {savedWords[t.saved]}
          </span>
          {t.saved === "changed elsewhere" && (
            <Button size="small" onClick={() => void t.reload()}>
              Load it again
            </Button>
          )}
          <Tooltip title="Take back the last change (Ctrl+Z)">
            <Button size="small" type="text" disabled={!t.depth.undo} onClick={t.undo}>
              Undo
            </Button>
          </Tooltip>
          <Tooltip title="Do it again (Ctrl+Shift+Z)">
            <Button size="small" type="text" disabled={!t.depth.redo} onClick={t.redo}>
              Redo
            </Button>
          </Tooltip>
        </Where>
        <aside className="ticket">
          <Docket scene={scene.data} outlook={o} />
          <div className="ticket-foot">
            {faults.length > 0 ? (
              <div className="notice" role="alert">
                {faults.slice(0, 3).map((f) => (
                  <div key={f.path + f.message}>{f.message}</div>
                ))}
              </div>
            ) : (
              o && (
                <div className="told">
                  {o.changed.length > 0 && (
                    <div className="changed" title={o.changed.join("\n")}>
                      Since run {chosen ? runs.data?.[0]?.run.number : ""}: {o.changed.slice(0, 2).join("; ")}
                      {o.changed.length > 2 && `; ${o.changed.length - 2} more`}
                    </div>
                  )}
                  <div className="faint">
                    {o.files.length} {o.files.length === 1 ? "file" : "files"} · {bytes(o.memory)} of memory
                    {!o.fits && ", more than is free: make it smaller or render a region"}
                  </div>
                </div>
              )
            )}
            <Button
              className="go"
              type="primary"
              block
              size="large"
              loading={start.isPending}
              disabled={faults.length > 0 || (o && !o.fits)}
              onClick={() => void run()}
              data-testid="run"
            >
              <span>
                Run {view?.name} · {o ? `${o.width} × ${o.height}` : "…"}
                {o?.region && " region"}
              </span>
              <span>{ticket.surface.mode === "clay" ? "clay" : "finished"}</span>
            </Button>
          </div>
        </aside>
        <section className="middle">
          <Segmented
            className="middle-tabs"
            size="small"
            value={showing}
            onChange={(v) => setQuery(chosen ? { run: String(chosen.run.id), show: v } : { show: v })}
            options={[
              { value: "picture", label: "Picture" },
              { value: "frame", label: "Frame" },
            ]}
          />
          {showing === "frame" || !chosen ? (
            <>
              <Suspense fallback={<div className="empty">Opening the view</div>}>
                {view && (
                  <Turntable
                    scene={scene.data}
                    camera={view.camera}
                    cameraKey={`${view.id} ${view.camera.matrix.join(" ")}`}
                    pose={posed?.parts}
                    width={ticket.view.width}
                    height={ticket.view.height}
                    region={ticket.view.region}
                    onRegion={(r) => t.set("view.region", r)}
                    focus={lens.on && lens.by === "point" ? lens : undefined}
                    onFocus={(x, y) => t.set("view.lens", { ...lens, x, y })}
                  />
                )}
              </Suspense>
              <div className="slug mono">
                {view?.name} · {ticket.view.width} × {ticket.view.height} px · shaded for framing, not rendered
                {ticket.view.region.on && " · draw on the frame to set the region"}
                {lens.on && lens.by === "point" && " · click what is to be in focus"}
              </div>
            </>
          ) : (
            <>
              <RunPicture run={chosen} />
              <RunLine run={chosen} />
            </>
          )}
        </section>
        <aside className="strip" aria-label="Kept proofs of this job">
          <div className="strip-title">Proofs</div>
          {[...(runs.data ?? [])].reverse().map((r) => (
            <button
              key={r.run.id}
              className={r === chosen && showing !== "frame" ? "kept chosen" : "kept"}
              onClick={() => setQuery({ run: String(r.run.id) })}
            >
              <Thumb run={r} />
              <span className="mono">
                {r.run.number} · {r.run.resolved.ticket.surface.mode === "clay" ? "clay" : "finished"}
                <br />
                <span className="faint">
                  {r.run.resolved.ticket.view.scale} % ·{" "}
                  {r.run.noise == null ? stateWords[r.run.state] : `${r.run.noise.toFixed(1)} %`}
                </span>
              </span>
            </button>
          ))}
          {runs.data?.length === 0 && <div className="faint">Runs are kept here, newest last.</div>}
        </aside>
      </div>
    </EditingContext.Provider>
  );
}

/** RunLine says how a run is doing and what can be done with it. */
export function RunLine({ run }: { run: RunBody }) {
  const e = useLive((s) => s.events[run.run.id]);
  const { message } = App.useApp();
  const fail = { onError: (x: Error) => void message.error(x.message) };
  const stale = [["runs"], ["run", run.run.id]];
  const stop = useChange(stopRun, stale);
  const keep = useChange(keepRun, stale);
  const resume = useChange(resumeRun, stale);
  const live = e && (e.state === "running" || e.state === "stopping") ? e : null;
  const state = run.run.state;
  return (
    <div className="run-line">
      <div className="slug mono" data-testid="slug">
        {live
          ? `${run.job} ${run.run.number} · ${live.note || `${live.samples.toFixed(1)} samples · ${noise(live.noise)} · ${live.settled} of ${live.tiles} tiles clean · ${Math.round(live.seconds)} s used${live.left == null ? "" : ` · ${left(live.left)} left`}`}`
          : run.slug}
      </div>
      <div className="run-tools">
        <span className="state" data-testid="state">
          {stateWords[live?.state ?? state]}
          {live && !live.note && ` ${percent(live.share)}`}
        </span>
        {run.run.fault && <span className="notice">{run.run.fault}</span>}
        {(state === "running" || state === "queued") && (
          <Button size="small" onClick={() => stop.mutate(run.run.id, fail)}>
            Stop
          </Button>
        )}
        {(state === "running" || state === "stopped") && (
          <Button size="small" onClick={() => keep.mutate(run.run.id, fail)}>
            Stop and keep
          </Button>
        )}
        {(state === "stopped" || state === "failed") && (
          <Button size="small" type="primary" onClick={() => resume.mutate(run.run.id, fail)}>
            Resume
          </Button>
        )}
        <Link to={`/runs/${run.run.id}`}>Open the proof</Link>
      </div>
    </div>
  );
}
