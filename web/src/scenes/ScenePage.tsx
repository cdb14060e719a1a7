import { App, Button, Segmented, Select, Tooltip } from "antd";
import { lazy, Suspense, useCallback, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useChange, type Schemas } from "../api/http";
import { Where } from "../app/Frame";
import { createJob } from "../jobs/api";
import { NameDialog } from "../shared/NameDialog";
import type { TurntableHandle } from "../shared/Turntable";
import { UndoButtons } from "../shared/UndoButtons";
import { count } from "../shared/words";
import { changeView, removeView, saveView, useScene, useScenes } from "./api";
import { Findings, type Finding } from "./Findings";
import { PartTree } from "./PartTree";
import { Picked } from "./Picked";
import { useBench } from "./useBench";
import bits from "../shared/bits.module.css";
import styles from "./ScenePage.module.css";

const Turntable = lazy(() => import("../shared/Turntable"));

/** Focal length on a sensor 24 mm high, the way photographers name a field of view. */
const focal = (yfov: number) => 12 / Math.tan(yfov / 2);

export function ScenePage() {
  const id = Number(useParams()["id"]);
  return <Scene key={id} id={id} />; // what can be taken back belongs to one scene
}

function Scene({ id }: { id: number }) {
  const scene = useScene(id);
  const others = useScenes();
  const go = useNavigate();
  const { message } = App.useApp();
  const [by, setBy] = useState<"tree" | "finish">("tree");
  const [tab, setTab] = useState<"preflight" | "views" | "contents">("preflight");
  const [picked, setPicked] = useState<number[]>([]);
  const [through, setThrough] = useState(false); // what is picked is shown through all others
  const [view, setView] = useState<number | null>(null);
  const [moved, setMoved] = useState(0); // counts going back to the saved view
  const [off, setOff] = useState(false); // turned away from the saved view
  const [naming, setNaming] = useState(false);
  const [live, setLive] = useState("");
  const table = useRef<TurntableHandle>(null);
  const stale = [["scene", id]];
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const save = useChange(saveView, stale);
  const change = useChange(changeView, stale);
  const remove = useChange(removeView, stale);
  const newJob = useChange(createJob, [["jobs"]]);
  const failed = useCallback((text: string) => void message.error(text), [message]);
  const bench = useBench(scene.data, failed);

  if (scene.error) return <div className={bits.empty}>{scene.error.message}</div>;
  if (!scene.data) return <div className={bits.empty}>Opening the scene</div>;
  const s = scene.data;
  const shown = s.views.find((v) => v.id === view) ?? s.views[0];
  const camera: Schemas["Camera"] = shown?.camera ?? {
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 5],
    yfov: 0.3,
    ymag: 0,
  };
  const back = () => {
    setMoved(moved + 1);
    setOff(false);
  };
  const choose = (v: Schemas["View"]) => {
    setView(v.id);
    back();
  };
  const pick = (parts: number[]) => {
    setPicked(parts);
    setThrough(false);
  };
  const show = (f: Finding) => {
    // What carries a part is not shown with it: it is often far larger.
    const keys = f.check === "floats" || f.check === "sinks" ? [f.part] : [f.part, f.other];
    setPicked(keys.map((key) => s.parts.findIndex((p) => p.key === key)).filter((i) => i >= 0));
    setThrough(f.view === "");
    const seen = s.views.find((v) => v.name === f.view);
    if (seen) return choose(seen);
    table.current?.show(f.centre, f.radius);
    setOff(true);
  };

  return (
    <div className={styles.page}>
      <Where title={s.scene.name}>
        <span className="faint">Scenes /</span>
        <h1>{s.scene.name}</h1>
        <span className={bits.stamp}>{count(s.parts.length, "part")}</span>
        <span className={bits.stamp} data-testid="saved">
          {bench.saved}
        </span>
        <UndoButtons depth={bench.depth} undo={bench.undo} redo={bench.redo} />
      </Where>
      <section className={`${bits.side} ${styles.parts}`} aria-label="Parts">
        <Segmented
          block
          size="small"
          value={by}
          onChange={setBy}
          options={[
            { value: "tree", label: "By place" },
            { value: "finish", label: "By finish" },
          ]}
        />
        <div className={styles.tree}>
          <PartTree scene={s} by={by} picked={picked} onPick={pick} />
        </div>
        {picked.length > 0 && <Picked scene={s} bench={bench} picked={picked} />}
      </section>
      <section className={styles.middle} aria-label="Turnable view">
        <Suspense fallback={<div className={bits.empty}>Opening the turnable view</div>}>
          <Turntable
            ref={table}
            scene={s}
            camera={camera}
            cameraKey={`${shown?.id ?? 0}:${moved}`}
            width={1}
            height={1}
            picked={picked}
            through={through}
            live={{}}
            onLive={setLive}
            onPick={(part, add) =>
              pick(
                part === null
                  ? []
                  : add
                    ? picked.includes(part)
                      ? picked.filter((i) => i !== part)
                      : [...picked, part]
                    : [part],
              )
            }
            onMoved={() => setOff(true)}
          />
        </Suspense>
        <div className={`${bits.slug} ${bits.still} mono`}>
          {shown ? shown.name : "no saved view"}
          {off && ", turned"} · {focal(camera.yfov).toFixed(0)} mm{live && ` · ${live}`}
        </div>
      </section>
      <section className={`${bits.side} ${styles.facts}`} aria-label="Preflight, views, lights, notes">
        <Segmented
          block
          size="small"
          value={tab}
          onChange={setTab}
          options={[
            { value: "preflight", label: "Preflight" },
            { value: "views", label: "Views" },
            { value: "contents", label: "Contents" },
          ]}
        />
        <div className={styles.tab}>
          {tab === "preflight" && <Findings scene={s} bench={bench} show={show} />}
          {tab === "views" && (
            <>
              <h2>Views</h2>
              {s.views.map((v) => (
                <div key={v.id} className={v.id === shown?.id ? `${styles.view} ${styles.chosen}` : styles.view}>
                  <button className={styles.plain} onClick={() => choose(v)}>
                    {v.name}
                  </button>
                  <Tooltip
                    title={
                      v.locked ? "Locked: it cannot be moved or removed" : "Lock it, so that it only changes on purpose"
                    }
                  >
                    <Button
                      size="small"
                      type="text"
                      aria-label={v.locked ? `locked: unlock ${v.name}` : `open: lock ${v.name}`}
                      onClick={() => change.mutate({ id: v.id, locked: !v.locked }, fail)}
                    >
                      {v.locked ? "locked" : "open"}
                    </Button>
                  </Tooltip>
                  {!v.locked && (
                    <Button
                      size="small"
                      type="text"
                      onClick={() => remove.mutate(v.id, fail)}
                      aria-label={`remove ${v.name}`}
                    >
                      remove
                    </Button>
                  )}
                </div>
              ))}
              <div className={styles.actions}>
                <Button size="small" disabled={!off} onClick={back}>
                  Back to the saved view
                </Button>
                <Button size="small" onClick={() => setNaming(true)}>
                  Save this as a new view
                </Button>
                {shown && !shown.locked && (
                  <Button
                    size="small"
                    disabled={!off}
                    onClick={() =>
                      change.mutate({ id: shown.id, camera: table.current!.camera() }, { ...fail, onSuccess: back })
                    }
                  >
                    Move {shown.name} here
                  </Button>
                )}
              </div>
            </>
          )}
          {tab === "contents" && (
            <>
              <h2>Set-up</h2>
              <p className="faint">
                {count(s.setup.parts.length, "part")} and {count(s.setup.finishes.length, "finish", "finishes")} changed
                over the file.
              </p>
              <Select
                size="small"
                className={styles.wide}
                aria-label="Take the set-up of another scene"
                placeholder="Take the set-up of another scene"
                value={null}
                options={(others.data ?? [])
                  .filter((o) => o.id !== id)
                  .map((o) => ({ value: o.id, label: `${o.name}, ${o.id}` }))}
                onChange={(from: number | null) => from !== null && void bench.take(from)}
              />
              <p>
                <a href={`/api/scenes/${id}/setup`} download={`${s.scene.name}-setup.json`}>
                  Set-up as a file
                </a>
                <span className="faint"> for the headless command</span>
              </p>
              <h2>Lights of the scene</h2>
              {s.lamps.length === 0 && <p className="faint">None; a surround lights it.</p>}
              {s.lamps.map((l) => (
                <div key={l.name} className={styles.pair}>
                  <span>{l.name}</span>
                  <span className="faint">{l.kind}</span>
                </div>
              ))}
              {s.animations.length > 0 && <h2>Animations</h2>}
              {s.animations.map((a) => (
                <div key={a.name} className={styles.pair}>
                  <span>{a.name}</span>
                  <span className="faint">{+a.length.toFixed(2)} s</span>
                </div>
              ))}
              <h2>Left out of the import</h2>
              {s.scene.leftOut.length === 0 ? (
                <p className="faint">Nothing: everything in the file is here.</p>
              ) : (
                <ul className={styles.leftOut}>
                  {s.scene.leftOut.map((n, i) => (
                    <li key={i}>
                      <b>{n.where}</b>: {n.what}
                    </li>
                  ))}
                </ul>
              )}
            </>
          )}
        </div>
        <div className={styles.foot}>
          <Button
            type="primary"
            block
            size="large"
            onClick={() =>
              newJob.mutate(
                { scene: id, name: `${s.scene.name} ${shown?.name ?? ""}`.trim().slice(0, 110) },
                { ...fail, onSuccess: (j) => void go(`/jobs/${j.id}`) },
              )
            }
          >
            Make a job for this scene
          </Button>
        </div>
      </section>
      {naming && (
        <NameDialog
          title="Save this as a new view"
          ok="Save view"
          cancel={() => setNaming(false)}
          done={(name) =>
            save.mutate(
              { scene: id, name, camera: table.current!.camera() },
              {
                ...fail,
                onSuccess: (v) => {
                  setNaming(false);
                  choose(v);
                },
              },
            )
          }
        />
      )}
    </div>
  );
}
