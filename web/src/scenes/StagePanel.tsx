import { App, Button, Select, Segmented, Switch } from "antd";
import { useState } from "react";
import { useChange, type Schemas } from "../api/http";
import { entryOf, useLibrary } from "../api/library";
import { KeepDialog } from "../shared/KeepDialog";
import { workOutStage, type SceneBody } from "../api/scenes";
import { BackdropRows } from "./BackdropRows";
import { LightList } from "./LightList";
import { SurroundRows } from "./SurroundRows";
import type { Bench, Stage } from "./useBench";
import { disabledIf } from "../shared/disabledIf";
import styles from "./StagePanel.module.css";

type Asking = { what: string; answer: (a: { point: number[] | null; value: () => Promise<number[] | null> }) => void };

type Props = {
  scene: SceneBody;
  bench: Bench;
  camera: Schemas["Camera"];
  view: string;
  picked: number[]; // lights of the stage
  onPick: (lights: number[]) => void;
  dark: string[];
  onDark: (names: string[]) => void;
  ask: (a: Asking) => void;
};

/** StagePanel sets up what stands around the product. */
export function StagePanel(p: Props) {
  const { scene, bench } = p;
  const [part, setPart] = useState<"lights" | "backdrop" | "surround">("lights");
  const [naming, setNaming] = useState(false);
  const { message } = App.useApp();
  const kept = useLibrary("stage");
  const taking = useChange(entryOf, []);
  const work = useChange(workOutStage, []);
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const stage = bench.stage;
  const put = (change: Partial<Stage> | ((now: Stage) => Partial<Stage>), what = "") =>
    bench.put(
      ({ stage: now }) => now && { stage: { ...now, ...(typeof change === "function" ? change(now) : change) } },
      what,
    );

  const make = (what: "new" | "around" | "measure", given?: Stage) =>
    bench.awaits(
      work.mutateAsync({ id: scene.scene.id, what, ...(given && { stage: given }) }).then((w) => {
        // Only the backdrop was asked to be measured: the lights may have been changed meanwhile.
        bench.put((now) => ({
          stage: what === "measure" && now.stage ? { ...now.stage, backdrop: w.stage.backdrop } : w.stage,
          parts: w.changes,
        }));
        if (w.cannot.length > 0) void message.warning(`The backdrop's edge stays in sight. ${w.cannot.join(". ")}.`, 8);
      }),
    );
  const library = (
    <Select
      size="small"
      className={styles.wide}
      value={null}
      aria-label="Take a kept stage"
      placeholder={kept.data?.length ? "Take a kept stage" : "No kept stage yet"}
      {...disabledIf(!kept.data?.length)}
      popupMatchSelectWidth={false}
      options={(kept.data ?? []).map((e) => ({
        value: e.key,
        label: (
          <span className={styles.kept}>
            {e.shown && <img src={`/api/library/stage/${e.key}/${e.version}/picture.png`} alt="" />}
            {e.name}, version {e.version}
          </span>
        ),
      }))}
      onChange={(k) =>
        taking.mutate(
          kept.data!.find((e) => e.key === k)!,
          { ...fail, onSuccess: (e) => make("around", e.body as Stage) },
        )
      }
    />
  );
  if (!stage)
    return (
      <>
        <h2>Stage</h2>
        <p className="faint">
          Nothing stands around the product but what came with its file. A stage has a backdrop and lights of its own,
          and leaves out those of the file.
        </p>
        <div className={styles.actions}>
          <Button type="primary" loading={work.isPending} onClick={() => make("new")}>
            Set up a stage
          </Button>
          {library}
        </div>
      </>
    );
  return (
    <>
      <Segmented
        block
        size="small"
        value={part}
        onChange={setPart}
        options={[
          { value: "lights", label: "Lights" },
          { value: "backdrop", label: "Backdrop" },
          { value: "surround", label: "Surround" },
        ]}
      />
      {part === "lights" && <LightList {...p} stage={stage} put={put} />}
      {part === "backdrop" && <BackdropRows stage={stage} put={put} measure={() => make("measure", stage)} />}
      {part === "surround" && <SurroundRows {...p} stage={stage} put={put} />}
      <h2>This stage</h2>
      <label className={styles.card}>
        <Switch size="small" checked={stage.card} onChange={(card) => put({ card })} aria-label="Grey card" />
        Grey card beside the product, in live pictures only
      </label>
      <div className={styles.actions}>
        {library}
        <Button size="small" onClick={() => setNaming(true)}>
          Keep this stage
        </Button>
        <Button size="small" loading={work.isPending} onClick={() => make("around", stage)}>
          Set up around the product again
        </Button>
        <Button size="small" type="text" onClick={() => bench.put({ stage: null })}>
          Remove the stage
        </Button>
      </div>
      {naming && <KeepDialog kind="stage" what="stage" body={stage} close={() => setNaming(false)} />}
    </>
  );
}
