import { App, Button, Segmented } from "antd";
import { lazy, Suspense, useMemo, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { queryClient, useChange, type Schemas } from "../api/http";
import { Where } from "../app/Frame";
import { deliverAgain, pictureURL, staleRuns, useRun, useRuns, type Run } from "../proof/api";
import { RunLine } from "../proof/RunLine";
import { RunPicture } from "../proof/RunPicture";
import { Thumb } from "../proof/Thumb";
import { usePose, useScene, type SceneBody } from "../scenes/api";
import { EditingContext } from "../shared/Field";
import { ConflictDialog } from "../shared/ConflictDialog";
import { savedWords } from "../shared/words";
import { Fold } from "../shared/Fold";
import { KeptStrip } from "../shared/KeptStrip";
import { UndoButtons } from "../shared/UndoButtons";
import { bytes, count, stateWords, surfaceWords } from "../shared/words";
import { BlockedLight } from "./BlockedLight";
import { startRun, useJobPreflight, useOutlook } from "./api";
import { Docket } from "./Docket";
import { whyWorn } from "./whyWorn";
import { VariantJobs } from "./VariantJobs";
import { useTicket } from "./useTicket";
import bits from "../shared/bits.module.css";
import styles from "./JobPage.module.css";

const Turntable = lazy(() => import("../shared/Turntable"));

export function JobPage() {
  const id = Number(useParams()["id"]);
  return <Job key={id} id={id} />;
}

function Job({ id }: { id: number }) {
  const t = useTicket(id);
  const scene = useScene(t.job.data?.scene);
  const outlook = useOutlook(id, t.version);
  const pages = useRuns(id);
  const runs = useMemo(() => pages.data?.pages.flatMap((p) => p.runs) ?? [], [pages.data]);
  const motion = t.ticket?.view.motion;
  const pose = usePose(t.job.data?.scene, motion?.animation ?? "", motion?.moment ?? 0);
  const [query, setQuery] = useSearchParams();
  const [live, setLive] = useState("");
  const [lit, setLit] = useState<number[]>([]); // parts that were asked about
  const [held, setHeld] = useState<string[]>([]); // pictures in place of the live one
  const [making, setMaking] = useState(false); // jobs for variants
  const { message } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const start = useChange(startRun, [...staleRuns, ["outlook", id]]);
  const again = useChange(deliverAgain, [...staleRuns, ["outlook", id]]);
  const showing = query.get("show") ?? "picture";
  const inClay = query.get("in") === "clay"; // of a run that is finished, too
  const chosen = runs.find((r) => String(r.id) === query.get("run")) ?? runs[0];
  const editing = useMemo(
    () => (t.ticket ? { ticket: t.ticket, faults: t.faults, set: t.set } : null),
    [t.ticket, t.faults, t.set],
  );

  const dressed = outlook.data;
  const partsNow = scene.data?.parts;
  /** The clay that parts wear, as the frame draws it. */
  const clad = useMemo(() => {
    const greys = new Map<number, number>();
    const place = new Map(partsNow?.map((p, i) => [p.key, i]));
    for (const d of dressed?.clay ?? []) {
      const clay = ["wear", "second", "third"].indexOf(d.do);
      const at = place.get(d.part);
      if (clay >= 0 && at !== undefined) greys.set(at, dressed!.tones[clay]!.shown);
    }
    return greys;
  }, [dressed, partsNow]);

  // What runs is what is seen: the save is waited for, and its version named.
  const run = async () => {
    const version = await t.editor.flush();
    if (version === null) return; // the foot of the ticket says why
    setQuery({}); // its picture is shown
    start.mutate(
      { id, version },
      {
        ...fail,
        onSuccess: (r) => {
          // What somebody has turned to before the answer came stays in front.
          const now = new URLSearchParams(window.location.search);
          now.set("run", String(r.id));
          setQuery(now);
        },
      },
    );
  };

  if (t.job.error) return <div className={bits.empty}>{t.job.error.message}</div>;
  if (!editing || !scene.data || !t.job.data) return <div className={bits.empty}>Opening the job</div>;
  const ticket = editing.ticket;
  const lens = ticket.view.lens;
  const posed = ticket.view.motion.animation === "" ? undefined : pose.data;
  const views = posed?.views ?? scene.data.views;
  const view = views.find((v) => v.name === ticket.view.name) ?? views[0];
  const o = outlook.data;
  const parts = scene.data.parts;
  const faults = t.faults.length > 0 ? t.faults : (o?.faults ?? []);

  const light = (keys: string[]) => {
    setLit(parts.flatMap((p, i) => (keys.includes(p.key) ? [i] : [])));
    setQuery(chosen ? { run: String(chosen.id), show: "frame" } : { show: "frame" });
  };

  return (
    <EditingContext.Provider value={editing}>
      <div className={styles.page}>
        <Where title={t.job.data.name}>
          <span className="faint">Jobs / {scene.data.scene.name} /</span>
          <h1>{t.job.data.name}</h1>
          <span className={bits.stamp} data-testid="saved">
            {savedWords[t.saved]}
          </span>
          <UndoButtons depth={t.depth} undo={t.editor.undo} redo={t.editor.redo} />
        </Where>
        <section className={styles.ticket} aria-label="Ticket">
          <Docket
            scene={scene.data}
            outlook={o}
            light={light}
            round={chosen && chosen.surface !== "own" && chosen.samples > 0 ? chosen : undefined}
          />
          <div className={styles.foot}>
            {faults.length > 0 ? (
              <div className={bits.notice} role="alert">
                {faults.slice(0, 3).map((f) => (
                  <div key={f.path + f.message}>{f.message}</div>
                ))}
              </div>
            ) : (
              o && (
                <div>
                  {o.changed.length > 0 && (
                    <div className={styles.changed}>
                      <Fold
                        line={`Since run ${runs[0]?.number}, ${count(o.changed.length, "change")}: ${o.changed.join("; ")}`}
                      >
                        {o.changed.map((c) => (
                          <div key={c}>{c}</div>
                        ))}
                      </Fold>
                    </div>
                  )}
                  {o.idle.length > 0 && <div>{o.idle[0]!.message}</div>}
                  <BlockedLight job={id} version={t.version} setup={scene.data.setup.version} light={light} />
                  <PreflightLine job={id} version={t.version} scene={scene.data} />
                  <Fold
                    line={`${count(o.files.length, "file")} · ${bytes(o.memory)} of memory${o.fits ? "" : ", more than is free: make it smaller or render a region"}`}
                  >
                    {o.files.map((f) => (
                      <div key={f.path} className="mono">
                        {f.path}
                      </div>
                    ))}
                  </Fold>
                  {scene.data.variants.length > 0 && (
                    <Button
                      size="small"
                      block
                      onClick={async () => (await t.editor.flush()) !== null && setMaking(true)}
                    >
                      A job for each variant
                    </Button>
                  )}
                  {o.served > 0 && (
                    <Button
                      size="small"
                      block
                      loading={again.isPending}
                      onClick={async () => {
                        const version = await t.editor.flush();
                        if (version === null) return;
                        again.mutate(
                          { id: o.served, version },
                          { ...fail, onSuccess: () => void message.success("Delivered anew, beside what was there.") },
                        );
                      }}
                    >
                      Deliver run {runs.find((r) => r.id === o.served)?.number} anew, without rendering
                    </Button>
                  )}
                </div>
              )
            )}
            <Button
              className={styles.go}
              type="primary"
              block
              size="large"
              loading={start.isPending || t.saved === "saving"}
              disabled={faults.length > 0 || (o && !o.fits) || t.saved === "changed elsewhere"}
              onClick={() => void run()}
              data-testid="run"
            >
              Run {view?.name}
              {ranAs[ticket.surface.mode]} at {o ? `${o.width} × ${o.height}` : "…"}
              {o?.region && ", a region"}
            </Button>
          </div>
        </section>
        <section className={styles.middle} aria-label="Picture">
          <Segmented
            className={styles.tabs}
            size="small"
            value={showing}
            onChange={(v) => setQuery(chosen ? { run: String(chosen.id), show: v } : { show: v })}
            options={[
              { value: "picture", label: "Picture" },
              { value: "frame", label: "Live" },
            ]}
          />
          {showing === "frame" || !chosen ? (
            <>
              <Suspense fallback={<div className={bits.empty}>Opening the view</div>}>
                {view && (
                  <Turntable
                    scene={scene.data}
                    camera={view.camera}
                    cameraKey={`${view.id} ${view.camera.matrix.join(" ")}`}
                    pose={posed?.parts}
                    live={{ ticket }}
                    picked={lit}
                    clad={clad}
                    why={(key) => {
                      const part = parts.find((q) => q.key === key);
                      return part ? whyWorn(ticket, o?.clay ?? [], part) : "";
                    }}
                    onArea={
                      ticket.surface.mode !== "own"
                        ? (keys) => {
                            const rule = { by: "parts", match: "", parts: keys, do: "keep" };
                            t.set("surface.clay.rules", [rule, ...ticket.surface.clay.rules]);
                          }
                        : undefined
                    }
                    onPick={(part) => setLit(part === null ? [] : [part])}
                    held={held}
                    onKept={(k) => {
                      if (typeof k === "string") return void message.error(k);
                      void queryClient.invalidateQueries({ queryKey: ["kept", scene.data.scene.id] });
                    }}
                    crops={o && { list: o.crops, width: o.width, height: o.height }}
                    onLive={setLive}
                    width={ticket.view.width}
                    height={ticket.view.height}
                    region={ticket.view.region}
                    onRegion={(r) => t.set("view.region", r)}
                    focus={lens.on && lens.by === "point" ? lens : undefined}
                    onFocus={(x, y) => t.set("view.lens", { ...lens, x, y })}
                  />
                )}
              </Suspense>
              <div className={`${bits.slug} ${bits.still} mono`}>
                {view?.name} · {ticket.view.width} × {ticket.view.height} px ·{" "}
                {held.length > 0
                  ? `${held.length === 1 ? "a picture" : "two pictures, compared"}, not live`
                  : live || "shaded for framing, not rendered"}
                {lit.length === 1 && ` · ${whyWorn(ticket, o?.clay ?? [], scene.data.parts[lit[0]!]!)}`}
                {ticket.view.region.on && " · draw on the frame to set the region"}
                {lens.on && lens.by === "point" && " · click what is to be in focus"}
              </div>
              <KeptStrip scene={scene.data.scene.id} proofs={proofsOf(runs)} held={held} onHeld={setHeld} />
            </>
          ) : (
            <Chosen
              run={chosen}
              runs={runs}
              outlook={o}
              clay={inClay}
              swap={() => setQuery(inClay ? { run: String(chosen.id) } : { run: String(chosen.id), in: "clay" })}
            />
          )}
        </section>
        <section className={styles.strip} aria-label="Kept proofs of this job">
          <h2 className={styles.stripTitle}>Proofs</h2>
          {pages.hasNextPage && (
            <Button size="small" type="text" onClick={() => void pages.fetchNextPage()}>
              Earlier ones
            </Button>
          )}
          {picturesOf(runs).map(({ run: r, clay }) => (
            <button
              key={`${r.id} ${clay}`}
              className={
                r === chosen && showing !== "frame" && (r.surface !== "both" || clay === inClay)
                  ? `${bits.kept} ${bits.chosen}`
                  : bits.kept
              }
              onClick={() =>
                setQuery(clay && r.surface === "both" ? { run: String(r.id), in: "clay" } : { run: String(r.id) })
              }
            >
              <Thumb
                run={r}
                pass={clay && r.surface === "both" ? "clay" : "beauty"}
                scene={t.job.data!.scene}
                view={r.view}
              />
              <span className="mono">
                {r.number} · {surfaceWords[clay ? "clay" : "own"]}
                <br />
                <span className="faint">{r.noise == null ? stateWords[r.state] : `${r.noise.toFixed(1)} %`}</span>
              </span>
            </button>
          ))}
          {pages.data && runs.length === 0 && <div className="faint">Runs are kept here, newest last.</div>}
        </section>
        {making && <VariantJobs job={id} variants={scene.data.variants} close={() => setMaking(false)} />}
        <ConflictDialog what="ticket" editor={t.editor} conflict={t.conflict} />
      </div>
    </EditingContext.Provider>
  );
}

/** How a run shows the surfaces, in the sentence of its button. */
const ranAs: Record<string, string> = { own: "", clay: " in clay", both: " finished and in clay" };

/** How many proofs are beside what was kept. */
const mostProofs = 8;

/** proofsOf are the newest runs that have a picture, newest last. */
const proofsOf = (runs: Run[]) =>
  runs
    .filter((r) => r.samples > 0)
    .slice(0, mostProofs)
    .reverse()
    .flatMap((r) => [
      { url: pictureURL(r.id, "beauty", keptSide, r.samples), name: `run ${r.number}` },
      ...(r.surface === "both"
        ? [{ url: pictureURL(r.id, "clay", keptSide, r.samples), name: `run ${r.number}, clay` }]
        : []),
    ]);

/** picturesOf are the pictures of runs, newest last: one each, or finished and in clay. */
const picturesOf = (runs: Run[]) =>
  [...runs].reverse().flatMap((run) =>
    run.surface === "both"
      ? [
          { run, clay: false },
          { run, clay: true },
        ]
      : [{ run, clay: run.surface === "clay" }],
  );

/** Of their longer side, pixels: as large as they are shown. */
const keptSide = 1400;

/** PreflightLine tells before a run what was found of the scene as this ticket would render it. */
function PreflightLine({ job, version, scene }: { job: number; version: number; scene: SceneBody }) {
  const report = useJobPreflight(job, version, scene.setup.version);
  const found = report.data?.findings.filter((f) => !f.aside) ?? [];
  if (report.isFetching && !report.data) return <div className="faint">Preflight: checking</div>;
  if (found.length === 0) return null;
  return (
    <Fold testid="found" line={`Preflight, ${count(found.length, "finding")}: ${found[0]!.says}`}>
      {found.map((f, i) => (
        <div key={i}>{f.says}</div>
      ))}
      <Link to={`/scenes/${scene.scene.id}`}>Look at them in the scene</Link>
    </Fold>
  );
}

/** Chosen is the picture of a run; before it has any sample, that of the last that has. */
function Chosen(p: {
  run: Run;
  runs: Run[];
  outlook: Schemas["Outlook"] | undefined;
  /** Of a run that is finished and in clay, which of the two. */
  clay: boolean;
  swap: () => void;
}) {
  const { run, runs, outlook } = p;
  const detail = useRun(run.id);
  const before = run.samples > 0 ? undefined : runs.find((r) => r.id < run.id && r.samples > 0);
  const last = useRun(before?.id);
  if (detail.error) return <div className={bits.empty}>{detail.error.message}</div>;
  if (!detail.data) return <div className={bits.empty}>Opening the picture</div>;
  const stands = before && last.data && detail.data.run.samples <= 0;
  return (
    <>
      <RunPicture
        key={stands ? before.id : run.id}
        run={stands ? last.data! : detail.data}
        clay={p.clay}
        swap={p.swap}
        crops={outlook && outlook.width * run.height === outlook.height * run.width ? outlook : undefined}
        note={stands ? `Run ${before.number}, until run ${run.number} has its first samples` : undefined}
      />
      <RunLine run={{ ...detail.data.run, state: run.state }} slug={detail.data.slug} />
    </>
  );
}
