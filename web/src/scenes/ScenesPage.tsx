import { App, Segmented } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { queryClient, useChange, type Schemas } from "../api/http";
import { useProject } from "../api/projects";
import { Where } from "../shared/Where";
import { Surrounds } from "./Surrounds";
import { DropFiles } from "../shared/DropFiles";
import { NameDialog } from "../shared/NameDialog";
import { RowMenu } from "../shared/RowMenu";
import { bytes, count } from "../shared/words";
import { changeScene, removeScene, scenePicture, useScenes } from "../api/scenes";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./ScenesPage.module.css";

type Scene = Schemas["Scene"];

export function ScenesPage() {
  const [away, setAway] = useState(false);
  const project = useProject();
  const scenes = useScenes(project?.id, away);
  const go = useNavigate();
  return (
    <div className={lists.page}>
      <Where title="Scenes">
        <b>Scenes</b>
      </Where>
      <header>
        <h1>Scenes</h1>
        <Segmented
          size="small"
          value={away ? "away" : "here"}
          aria-label="Which scenes"
          onChange={(v) => setAway(v === "away")}
          options={[
            { value: "here", label: "At work" },
            { value: "away", label: "Put away" },
          ]}
        />
      </header>
      <DropFiles<Scene>
        url="/api/scenes"
        query={project && { project: String(project.id) }}
        accept=".glb,.gltf,.bin,.obj,.mtl,.stl,.ply,.png,.jpg,.jpeg,.webp,.zip"
        words="Drop a .glb, a .gltf or .obj with its files, a .stl or .ply of a single part, or a .zip of them."
        button="Choose scene files"
        inLine
        done={(s) => {
          void queryClient.invalidateQueries({ queryKey: ["scenes"] });
          void go(`/scenes/${s.id}`);
        }}
      />
      {scenes.error && (
        <div className={bits.notice} role="alert">
          {scenes.error.message}
        </div>
      )}
      {scenes.data?.map((s) => (
        <SceneRow key={s.id} scene={s} />
      ))}
      {scenes.data?.length === 0 && (
        <p className="faint">{away ? "Nothing is put away." : "No scene yet. Drop one above."}</p>
      )}
      <Surrounds />
    </div>
  );
}

function SceneRow({ scene: s }: { scene: Scene }) {
  const { message, modal } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const change = useChange(changeScene, [["scenes"], ["scene", s.id], ["jobs"]]);
  const remove = useChange(removeScene, [["scenes"]]);
  const [naming, setNaming] = useState(false);
  return (
    <div className={`${lists.row} ${lists.linked} ${styles.row}`}>
      <Link className={lists.link} to={`/scenes/${s.id}`}>
        <img alt="" loading="lazy" src={scenePicture(s.id)} />
        <span>
          <b>{s.name}</b>
          <span className="faint">{s.file}</span>
        </span>
        <span>
          <span>{count(s.parts, "part")}</span>
          <span className="faint">{(s.triangles / 1000).toFixed(1)} k triangles</span>
        </span>
        <span>
          <span>{s.jobs === 0 ? "no job yet" : count(s.jobs, "job")}</span>
          <span className="faint">{s.delivered > 0 && `${count(s.delivered, "run")} delivered`}</span>
        </span>
        <span className="faint">
          {bytes(s.bytes)}
          {s.leftOut.length > 0 && ` · ${s.leftOut.length} left out`}
        </span>
      </Link>
      <RowMenu
        name={s.name}
        actions={[
          { key: "rename", label: "Rename", run: () => setNaming(true) },
          {
            key: "away",
            label: s.putAway ? "Take out again" : "Put away",
            run: () => change.mutate({ id: s.id, putAway: !s.putAway }, fail),
          },
          {
            key: "remove",
            label: s.jobs > 0 ? "Remove: it has jobs" : "Remove…",
            disabled: s.jobs > 0,
            run: () =>
              modal.confirm({
                title: `Remove ${s.name} for good?`,
                content: "Its views are removed with it.",
                okText: "Remove it",
                okButtonProps: { danger: true },
                onOk: () => remove.mutate(s.id, fail),
              }),
          },
        ]}
      />
      {naming && (
        <NameDialog
          title={`Rename ${s.name}`}
          ok="Rename"
          was={s.name}
          cancel={() => setNaming(false)}
          done={(name) => {
            setNaming(false);
            change.mutate({ id: s.id, name }, fail);
          }}
        />
      )}
    </div>
  );
}
