import { App, Button, Segmented } from "antd";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { queryClient, useChange, type Schemas } from "../api/http";
import { Where } from "../app/Frame";
import { createJob } from "../jobs/api";
import type { HandleMode } from "../shared/PartHandles";
import type { Answer, TurntableHandle } from "../shared/Turntable";
import { ConflictDialog } from "../shared/ConflictDialog";
import { KeptStrip } from "../shared/KeptStrip";
import { UndoButtons } from "../shared/UndoButtons";
import { count, savedWords } from "../shared/words";
import { useScene } from "./api";
import { Contents } from "./Contents";
import type { Finding } from "./FindingGroup";
import { Findings } from "./Findings";
import { focalOf, shapes } from "./FrameRows";
import { PartTree } from "./PartTree";
import { Picked } from "./Picked";
import { StagePanel } from "./StagePanel";
import { useBench } from "./useBench";
import { useDragged } from "./useDragged";
import { VariantsPanel } from "./VariantsPanel";
import { ViewsPanel } from "./ViewsPanel";
import bits from "../shared/bits.module.css";
import styles from "./ScenePage.module.css";

const Turntable = lazy(() => import("../shared/Turntable"));

/** What somebody clicked who was asked to. */
type Asked = { part: number | null; point: number[] | null; value: number[] | null };

export function ScenePage() {
  const id = Number(useParams()["id"]);
  return <Scene key={id} id={id} />; // what can be taken back belongs to one scene
}

function Scene({ id }: { id: number }) {
  const scene = useScene(id);
  const go = useNavigate();
  const { message } = App.useApp();
  const [by, setBy] = useState<"tree" | "finish" | "variants">("tree");
  const [tab, setTab] = useState<"preflight" | "stage" | "views" | "contents">("preflight");
  const [held, setHeld] = useState<string[]>([]); // kept pictures in place of the live one
  const [lights, setLights] = useState<number[]>([]); // of the stage, picked
  const [dark, setDark] = useState<string[]>([]); // lights that do not shine in the live picture
  const [asking, setAsking] = useState<{ what: string; answer: (a: Answer | null) => void } | null>(null);
  const [picked, setPicked] = useState<number[]>([]);
  const [through, setThrough] = useState(false); // what is picked is shown through all others
  const [variant, setVariant] = useState(""); // that the live picture shows
  const [handle, setHandle] = useState<HandleMode | "none">("none");
  const [hidden, setHidden] = useState<number[]>([]); // from the eye, not from pictures of runs
  const [view, setView] = useState<number | null>(null);
  const [moved, setMoved] = useState(0); // counts going back to the saved view
  const [off, setOff] = useState(false); // turned away from the saved view
  const [turned, setTurned] = useState<Schemas["Camera"] | null>(null); // where it came to rest then
  const [shape, setShape] = useState("1:1"); // of the frame
  const [live, setLive] = useState("");
  const table = useRef<TurntableHandle>(null);
  const coming = useRef(""); // name of a part that is to be picked once it is there
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const newJob = useChange(createJob, [["jobs"]]);
  const failed = useCallback((text: string) => void message.error(text), [message]);
  const bench = useBench(id, scene.data, failed);
  const dragged = useDragged(scene.data, bench, picked, failed);

  useEffect(() => {
    const at = coming.current ? (scene.data?.parts.findIndex((p) => p.key === coming.current) ?? -1) : -1;
    if (at < 0) return;
    coming.current = "";
    setPicked([at]);
  }, [scene.data]);

  if (scene.error) return <div className={bits.empty}>{scene.error.message}</div>;
  if (!scene.data) return <div className={bits.empty}>Opening the scene</div>;
  const s = scene.data;
  const shown = s.views.find((v) => v.id === view) ?? s.views[0];
  const camera: Schemas["Camera"] = shown?.camera ?? {
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 5],
    yfov: 0.3,
    ymag: 0,
  };
  const seen = (off && turned) || camera;
  const back = () => {
    setMoved(moved + 1);
    setOff(false);
    setTurned(null);
  };
  const choose = (v: Schemas["View"]) => {
    setView(v.id);
    back();
  };
  const ask = (a: { what: string; answer: (got: Asked) => void }) =>
    setAsking({
      what: a.what,
      answer: (got) => {
        setAsking(null);
        if (got) a.answer({ part: got.part, point: got.point, value: got.reading?.values ?? null });
      },
    });
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
        <span className={bits.stamp}>{count(s.parts.filter((x) => !x.staged).length, "part")}</span>
        <span className={bits.stamp} data-testid="saved">
          {savedWords[bench.saved]}
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
            { value: "variants", label: "Variants" },
          ]}
        />
        <div className={styles.tree}>
          {by === "variants" ? (
            <VariantsPanel scene={s} bench={bench} picked={picked} shown={variant} onShown={setVariant} />
          ) : (
            <PartTree scene={s} by={by} picked={picked} hidden={hidden} onPick={pick} />
          )}
        </div>
        {hidden.length > 0 && (
          <Button size="small" type="text" onClick={() => setHidden([])}>
            Show the {count(hidden.length, "part")} hidden
          </Button>
        )}
        {picked.length > 0 && (
          <Picked
            scene={s}
            bench={bench}
            picked={picked}
            ask={ask}
            pickNamed={(name) => {
              if (name === "") return pick([]);
              coming.current = name;
            }}
            handle={handle}
            onHandle={setHandle}
            hide={() => {
              setHidden([...new Set([...hidden, ...picked])]);
              pick([]);
            }}
          />
        )}
      </section>
      <section className={styles.middle} aria-label="Turnable view">
        <Suspense fallback={<div className={bits.empty}>Opening the turnable view</div>}>
          <Turntable
            ref={table}
            scene={s}
            camera={camera}
            cameraKey={`${shown?.id ?? 0}:${moved}:${JSON.stringify(s.setup.file)}`}
            width={shapes[shape]!}
            height={1}
            picked={picked}
            through={through}
            live={{
              dark: tab === "stage" && bench.stage ? dark : [], // where it can be seen and ended
              variant: by === "variants" && s.variants.includes(variant) ? variant : "",
            }}
            asking={asking}
            hidden={hidden}
            moving={handle === "none" || picked.length === 0 ? undefined : { mode: handle, parts: picked, ...dragged }}
            held={held}
            onKept={(k) => {
              if (typeof k === "string") return void message.error(k);
              void queryClient.invalidateQueries({ queryKey: ["kept", id] });
            }}
            handles={
              tab === "stage" && bench.stage
                ? {
                    middle: [bench.stage.middle.x / 1000, bench.stage.middle.y / 1000, bench.stage.middle.z / 1000],
                    lights: bench.stage.lights.flatMap((l, i) => {
                      const lit = s.lit[i];
                      return lit
                        ? [{ name: l.name, at: lit.at, aim: lit.aim, on: l.on, picked: lights.includes(i) }]
                        : [];
                    }),
                    onPick: (i, add) => setLights(add ? [...new Set([...lights, i])] : [i]),
                    onTurn: (i, direction, height) =>
                      bench.put(
                        {
                          stage: {
                            ...bench.stage!,
                            lights: bench.stage!.lights.map((l, k) => (k === i ? { ...l, direction, height } : l)),
                          },
                        },
                        `turn ${i}`,
                      ),
                  }
                : undefined
            }
            onLive={setLive}
            onPick={(part, add) =>
              !(part !== null && s.parts[part]?.staged) && // it is changed on the stage
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
            onTurned={setTurned}
          />
        </Suspense>
        <div className={`${bits.slug} ${bits.still} mono`}>
          {shown ? shown.name : "no saved view"}
          {off && ", turned"} · {focalOf(seen.yfov).toFixed(0)} mm
          {held.length > 0
            ? ` · kept ${held.length === 1 ? "picture" : "pictures, compared"}, not live`
            : live && `${by === "variants" && variant ? ` · ${variant}` : ""} · ${live}`}
        </div>
        <KeptStrip scene={id} again={bench.again} held={held} onHeld={setHeld} />
      </section>
      <section className={`${bits.side} ${styles.facts}`} aria-label="Preflight, views, lights, notes">
        <Segmented
          block
          size="small"
          value={tab}
          onChange={setTab}
          options={[
            { value: "preflight", label: "Preflight" },
            { value: "stage", label: "Stage" },
            { value: "views", label: "Views" },
            { value: "contents", label: "File" },
          ]}
        />
        <div className={styles.tab}>
          {tab === "preflight" && <Findings scene={s} bench={bench} show={show} />}
          {tab === "stage" && (
            <StagePanel
              scene={s}
              bench={bench}
              camera={seen}
              view={shown?.name ?? ""}
              picked={lights}
              onPick={setLights}
              dark={dark}
              onDark={setDark}
              ask={ask}
            />
          )}
          {tab === "views" && (
            <ViewsPanel
              scene={s}
              shown={shown}
              off={off}
              choose={choose}
              back={back}
              camera={() => table.current!.camera()}
              seen={seen}
              look={(c) => {
                setOff(true);
                table.current!.put(c);
              }}
              picked={picked.map((i) => s.parts[i]!.key)}
              shape={shape}
              onShape={setShape}
            />
          )}
          {tab === "contents" && <Contents scene={s} bench={bench} />}
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
      <ConflictDialog what="set-up" editor={bench.editor} conflict={bench.conflict} />
    </div>
  );
}
