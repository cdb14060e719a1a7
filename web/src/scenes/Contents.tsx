import { Select } from "antd";
import { SettingRow } from "../shared/SettingRow";
import { count } from "../shared/words";
import { useScenes, type SceneBody } from "../api/scenes";
import type { Bench } from "./useBench";
import styles from "./Contents.module.css";

/** length says a length in metres in the unit that suits it. */
function length(m: number): string {
  if (m >= 1) return `${+m.toPrecision(4)} m`;
  return `${+(1000 * m).toPrecision(4)} mm`;
}

/** Contents are the facts of a scene: its set-up as a whole, its lights, and what the import left out. */
export function Contents({ scene, bench }: { scene: SceneBody; bench: Bench }) {
  const others = useScenes(scene.scene.project);
  const id = scene.scene.id;
  return (
    <>
      <h2>Set-up</h2>
      <p className="faint">
        {count(scene.setup.parts.length, "part")} and {count(scene.setup.finishes.length, "finish", "finishes")} changed
        over the file{scene.setup.stage ? ", and a stage" : ""}.
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
        <a href={`/api/scenes/${id}/setup`} download={`${scene.scene.name}-setup.json`}>
          Set-up as a file
        </a>
        <span className="faint"> for the headless command</span>
      </p>
      <h2>Space</h2>
      {(["up", "turn", "size"] as const).map((key) => (
        <SettingRow
          key={key}
          path={`setup.file.${key}`}
          values={[bench.file[key]]}
          set={(v) => bench.put({ file: { ...bench.file, [key]: v } }, `file ${key}`)}
        />
      ))}
      <p className="faint">
        The product is {length(2 * scene.radius)} across its corners. Views go with it; a stage is set up anew.
      </p>
      <h2>Lights of the scene</h2>
      {scene.lamps.length === 0 && <p className="faint">None; a surround lights it.</p>}
      {scene.lamps.map((l) => (
        <div key={l.name} className={styles.pair}>
          <span>{l.name}</span>
          <span className="faint">{l.kind}</span>
        </div>
      ))}
      {scene.animations.length > 0 && <h2>Animations</h2>}
      {scene.animations.map((a) => (
        <div key={a.name} className={styles.pair}>
          <span>{a.name}</span>
          <span className="faint">{+a.length.toFixed(2)} s</span>
        </div>
      ))}
      <h2>Left out of the import</h2>
      {scene.scene.leftOut.length === 0 ? (
        <p className="faint">Nothing: everything in the file is here.</p>
      ) : (
        <ul className={styles.leftOut}>
          {scene.scene.leftOut.map((n, i) => (
            <li key={i}>
              <b>{n.where}</b>: {n.what}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
