import { App, Button, Tabs } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useChange } from "../api/http";
import { Where } from "../shared/Where";
import { createJob } from "../api/jobs";
import type { HandleMode } from "../shared/viewer/PartHandles";
import type { Answer, ViewerHandle } from "../shared/viewer/Viewer";
import { ConflictDialog } from "../shared/ConflictDialog";
import { UndoButtons } from "../shared/UndoButtons";
import { Only } from "../shared/Only";
import { count, savedWords } from "../shared/words";
import { useMay, useOfProject } from "../api/projects";
import { useScene, type SceneBody } from "../api/scenes";
import { Contents } from "./Contents";
import type { Finding } from "./FindingGroup";
import { Findings } from "./Findings";
import { shapes } from "./FrameRows";
import { PartsSide, type By } from "./PartsSide";
import { SceneView } from "./SceneView";
import { StagePanel } from "./StagePanel";
import { useBench } from "./useBench";
import { useDragged } from "./useDragged";
import { useSeen } from "./useSeen";
import { ViewsPanel } from "./ViewsPanel";
import bits from "../shared/bits.module.css";
import styles from "./ScenePage.module.css";

/** What somebody clicked who was asked to. */
type Asked = { part: number | null; point: number[] | null; value: () => Promise<number[] | null> };

export function ScenePage() {
  const id = Number(useParams()["id"]);
  return <Scene key={id} id={id} />; // what can be taken back belongs to one scene
}

function Scene({ id }: { id: number }) {
  const scene = useScene(id);
  const { message } = App.useApp();
  const [by, setBy] = useState<By>("tree");
  const [tab, setTab] = useState<"preflight" | "stage" | "views" | "contents">("preflight");
  const [lights, setLights] = useState<number[]>([]); // of the stage, picked
  const [dark, setDark] = useState<string[]>([]); // lights that do not shine in the live picture
  const [asking, setAsking] = useState<{ what: string; answer: (a: Answer | null) => void } | null>(null);
  const [picked, setPicked] = useState<number[]>([]);
  const [through, setThrough] = useState(false); // what is picked is shown through all others
  const [variant, setVariant] = useState(""); // that the live picture shows
  const [handle, setHandle] = useState<HandleMode | "none">("none");
  const [hidden, setHidden] = useState<number[]>([]); // from the eye, not from pictures of runs
  const [shape, setShape] = useState("1:1"); // of the frame
  const sight = useSeen(scene.data);
  const { shown, camera, seen, off, back, choose } = sight;
  const viewer = useRef<ViewerHandle>(null);
  const coming = useRef(""); // name of a part that is to be picked once it is there
  const failed = useCallback((text: string) => void message.error(text), [message]);
  const bench = useBench(id, scene.data, failed);
  const may = useMay(scene.data?.scene.project, "change scenes");
  useOfProject(scene.data?.scene.project);
  const dragged = useDragged(scene.data, bench, picked);

  useEffect(() => {
    const at = coming.current ? (scene.data?.parts.findIndex((p) => p.key === coming.current) ?? -1) : -1;
    if (at < 0) return;
    coming.current = "";
    setPicked([at]);
  }, [scene.data]);

  if (scene.error) return <div className={bits.empty}>{scene.error.message}</div>;
  if (!scene.data) return <div className={bits.empty}>Opening the scene</div>;
  const s = scene.data;
  const ask = (a: { what: string; answer: (got: Asked) => void }) =>
    setAsking({
      what: a.what,
      answer: (got) => {
        setAsking(null);
        if (got) a.answer({ ...got, value: async () => (await got.read())?.values ?? null });
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
    const saved = s.views.find((v) => v.name === f.view);
    if (saved) return choose(saved);
    viewer.current?.show(f.centre, f.radius);
    sight.onMoved();
  };

  return (
    <div className={styles.page}>
      <Where title={s.scene.name}>
        <span className="faint">Scenes /</span>
        <h1>{s.scene.name}</h1>
        <span className={bits.stamp}>{count(s.parts.filter((x) => !x.staged).length, "part")}</span>
        <span className={bits.stamp} data-testid="saved">
          {may ? savedWords[bench.saved] : "view only"}
        </span>
        <UndoButtons depth={bench.depth} undo={bench.undo} redo={bench.redo} />
      </Where>
      <Only project={s.scene.project} act="change scenes">
        <PartsSide
          scene={s}
          bench={bench}
          by={by}
          onBy={setBy}
          picked={picked}
          onPick={pick}
          pickNamed={(name) => {
            if (name === "") return pick([]);
            coming.current = name;
          }}
          hidden={hidden}
          onHidden={setHidden}
          variant={variant}
          onVariant={setVariant}
          ask={ask}
          handle={handle}
          onHandle={setHandle}
        />
      </Only>
      <SceneView
        ref={viewer}
        scene={s}
        bench={bench}
        dragged={dragged}
        view={shown}
        camera={camera}
        seen={seen}
        cameraKey={sight.key}
        shape={shapes[shape]!}
        off={off}
        picked={picked}
        onPick={pick}
        through={through}
        hidden={hidden}
        handle={handle}
        variant={by === "variants" && s.variants.includes(variant) ? variant : ""}
        dark={tab === "stage" && bench.stage ? dark : []} // where it can be seen and ended
        lights={tab === "stage" ? lights : null}
        onLights={setLights}
        asking={asking}
        onMoved={sight.onMoved}
        onTurned={sight.onTurned}
      />
      <Only project={s.scene.project} act="change scenes">
        <section className={`${bits.side} ${styles.facts}`} aria-label="Preflight, views, lights, notes">
          <Tabs
            className={styles.tabs}
            size="small"
            activeKey={tab}
            onChange={(t) => setTab(t as typeof tab)}
            destroyOnHidden
            items={[
              {
                key: "preflight",
                label: "Preflight",
                children: <Findings scene={s} bench={bench} show={show} />,
              },
              {
                key: "stage",
                label: "Stage",
                children: (
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
                ),
              },
              {
                key: "views",
                label: "Views",
                children: (
                  <ViewsPanel
                    scene={s}
                    shown={shown}
                    off={off}
                    choose={choose}
                    back={back}
                    camera={() => viewer.current!.camera()}
                    seen={seen}
                    look={(c) => {
                      sight.onMoved();
                      viewer.current!.put(c);
                    }}
                    picked={picked.map((i) => s.parts[i]!.key)}
                    shape={shape}
                    onShape={setShape}
                  />
                ),
              },
              { key: "contents", label: "File", children: <Contents scene={s} bench={bench} /> },
            ]}
          />
          <div className={styles.foot}>
            <NewJob scene={s} view={shown?.name ?? ""} />
          </div>
        </section>
      </Only>
      <ConflictDialog what="set-up" editor={bench.editor} conflict={bench.conflict} />
    </div>
  );
}

/** NewJob makes a job for the scene, of the view that is shown. */
function NewJob({ scene, view }: { scene: SceneBody; view: string }) {
  const go = useNavigate();
  const { message } = App.useApp();
  const make = useChange(createJob, [["jobs"]]);
  return (
    <Button
      type="primary"
      block
      size="large"
      loading={make.isPending}
      onClick={() =>
        make.mutate(
          { scene: scene.scene.id, name: `${scene.scene.name} ${view}`.trim().slice(0, 110) },
          { onError: (e) => void message.error(e.message), onSuccess: (j) => void go(`/jobs/${j.id}`) },
        )
      }
    >
      Make a job for this scene
    </Button>
  );
}
