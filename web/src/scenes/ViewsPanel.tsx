import { App, Button, Tooltip } from "antd";
import { useState } from "react";
import { useChange, type Schemas } from "../api/http";
import { NameDialog } from "../shared/NameDialog";
import { FrameRows } from "./FrameRows";
import { changeView, removeView, saveView, type Camera, type SceneBody } from "../api/scenes";
import { disabledIf } from "../shared/disabledIf";
import styles from "./ViewsPanel.module.css";

type View = Schemas["View"];

type Props = {
  scene: SceneBody;
  shown: View | undefined;
  /** Whether the picture is turned away from the saved view. */
  off: boolean;
  choose: (v: View) => void;
  back: () => void;
  /** What the picture is seen by now. */
  camera: () => Camera;
  seen: Camera;
  /** Looks through another camera, without saving it. */
  look: (c: Camera) => void;
  /** Keys of the parts that are picked. */
  picked: string[];
  shape: string;
  onShape: (shape: string) => void;
};

/** ViewsPanel lists the saved views; one is changed only on purpose. */
export function ViewsPanel(p: Props) {
  const { scene, shown, off, choose, back, camera } = p;
  const { message } = App.useApp();
  const [naming, setNaming] = useState(false);
  const stale = [["scene", scene.scene.id]];
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const save = useChange(saveView, stale);
  const change = useChange(changeView, stale);
  const remove = useChange(removeView, stale);
  return (
    <>
      <h2>Views</h2>
      {scene.views.map((v) => (
        <div key={v.id} className={v.id === shown?.id ? `${styles.view} ${styles.chosen}` : styles.view}>
          <button className={styles.plain} onClick={() => choose(v)}>
            {v.name}
          </button>
          <Tooltip
            title={v.locked ? "Locked: it cannot be moved or removed" : "Lock it, so that it only changes on purpose"}
          >
            <Button
              size="small"
              type="text"
              aria-label={v.locked ? `locked: unlock ${v.name}` : `open: lock ${v.name}`}
              onClick={() => change.mutate({ id: v.id, version: v.version, locked: !v.locked }, fail)}
            >
              {v.locked ? "locked" : "open"}
            </Button>
          </Tooltip>
          {!v.locked && (
            <Button size="small" type="text" onClick={() => remove.mutate(v.id, fail)} aria-label={`remove ${v.name}`}>
              remove
            </Button>
          )}
        </div>
      ))}
      <div className={styles.actions}>
        <Button size="small" {...disabledIf(!off)} onClick={back}>
          Back to the saved view
        </Button>
        <Button size="small" onClick={() => setNaming(true)}>
          Save this as a new view
        </Button>
        {shown && !shown.locked && (
          <Button
            size="small"
            {...disabledIf(!off)}
            onClick={() =>
              change.mutate({ id: shown.id, version: shown.version, camera: camera() }, { ...fail, onSuccess: back })
            }
          >
            Move {shown.name} here
          </Button>
        )}
      </div>
      <FrameRows {...p} />
      {naming && (
        <NameDialog
          title="Save this as a new view"
          ok="Save view"
          cancel={() => setNaming(false)}
          done={(name) =>
            save.mutate(
              { scene: scene.scene.id, name, camera: camera() },
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
    </>
  );
}
