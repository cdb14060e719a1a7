import { App, Button, Segmented, Select, Tooltip } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { Row } from "../shared/Field";
import type { HandleMode } from "../shared/viewer/PartHandles";
import { SettingRow, TripleRow, shared } from "../shared/SettingRow";
import { read, write, type PathOf } from "../shared/path";
import { count } from "../shared/words";
import { FaceSet } from "./FaceSet";
import { FinishRows } from "./FinishRows";
import { Shelf } from "./Shelf";
import { dropParts, type SceneBody } from "../api/scenes";
import { changeOf, type Bench, type Change } from "./useBench";
import { disabledIf } from "../shared/disabledIf";
import styles from "./Picked.module.css";

/** The settings of a part's change along three axes. */
const triples: { label: string; of: [PathOf<Change>, PathOf<Change>, PathOf<Change>] }[] = [
  { label: "Move", of: ["shift.x", "shift.y", "shift.z"] },
  { label: "Turn", of: ["turn.x", "turn.y", "turn.z"] },
];

/** And what else can be said of so many parts. */
const words = (many: number): PathOf<Change>[] =>
  many === 1 ? ["scale", "name", "group", "smooth"] : ["scale", "group", "smooth"];

type Props = {
  scene: SceneBody;
  bench: Bench;
  picked: number[];
  /** Asks for a part of the picture. */
  ask: (a: { what: string; answer: (a: { part: number | null; point: number[] | null }) => void }) => void;
  /** Picks the part of a name, once it is there; none for an empty one. */
  pickNamed: (name: string) => void;
  /** Of the handles in the view. */
  handle: HandleMode | "none";
  onHandle: (mode: HandleMode | "none") => void;
  /** Takes them from the eye. */
  hide: () => void;
};

/** Picked changes the parts that are picked, all at once. */
export function Picked({ scene, bench, picked, ask, pickNamed, handle, onHandle, hide }: Props) {
  const [shelf, setShelf] = useState(false);
  const { message } = App.useApp();
  const drop = useChange(dropParts, []);
  const changes = picked.map((i) => bench.of(i));
  const parts = picked.map((i) => scene.parts[i]!);
  const put = (path: PathOf<Change>, value: unknown) =>
    bench.put(
      (now) => ({ parts: picked.map((i) => write(changeOf(now, scene, i), path, value)) }),
      `${path} ${picked.join()}`,
    );
  const finish = shared(parts.map((p) => p.finish));
  const size = Math.max(...parts.map((p) => p.size));
  const changed = changes.some((c, k) => JSON.stringify(c) !== JSON.stringify(bench.back(picked[k]!)));
  const out = changes.every((c) => c.out);
  return (
    <div className={styles.picked} data-testid="picked">
      <h2>{picked.length === 1 ? parts[0]!.name : count(picked.length, "part")}</h2>
      <div className="faint">
        {picked.length === 1
          ? `${count(parts[0]!.faces, "face")}, ${size.toFixed(1)} mm`
          : `the largest ${size.toFixed(1)} mm`}
      </div>
      <Segmented
        block
        size="small"
        className={styles.handles}
        aria-label="Handles in the view"
        value={handle}
        onChange={onHandle}
        options={[
          { value: "none", label: "Pick" },
          { value: "move", label: "Move" },
          { value: "turn", label: "Turn" },
          { value: "size", label: "Size" },
        ]}
      />
      <Row label="Wears" help="A finish of the scene that the part wears instead of its own.">
        <Select
          size="small"
          aria-label="Wears"
          showSearch
          placeholder="mixed"
          value={finish}
          options={[
            { value: "", label: "as the file has it" },
            ...[...new Set(scene.finishes.slice(0, -1).map((f) => f.name))].map((f) => ({ value: f, label: f })),
          ]}
          onChange={(f) => put("finish", f)}
        />
      </Row>
      <div className={styles.actions}>
        <Button
          size="small"
          onClick={() =>
            ask({
              what: "Click a part that wears what is wanted",
              answer: ({ part }) => {
                const of = part === null ? undefined : scene.parts[part];
                if (!of) return;
                if (of.missing || of.staged) return void message.warning("That part has no finish to be worn.");
                put("finish", of.finish);
              },
            })
          }
        >
          Same as another part
        </Button>
        <Button size="small" aria-expanded={shelf} onClick={() => setShelf(!shelf)}>
          {shelf ? "Close the shelf" : "From the shelf"}
        </Button>
      </div>
      {shelf && (
        <Shelf
          take={(f) =>
            bench.put((now) => ({
              // One that is on the bench already is worn as it is there.
              finishes: scene.finishes.slice(0, -1).some((x) => x.name === f.name) ? [] : [f],
              parts: picked.map((i) => ({ ...changeOf(now, scene, i), finish: f.name })),
            }))
          }
        />
      )}
      {finish !== undefined && <FinishRows key={finish} scene={scene} bench={bench} name={finish} picked={picked} />}
      {triples.map(({ label, of }) => (
        <TripleRow
          key={label}
          label={label}
          paths={[`setup.parts[].${of[0]}`, `setup.parts[].${of[1]}`, `setup.parts[].${of[2]}`]}
          values={[
            changes.map((c) => read(c, of[0])),
            changes.map((c) => read(c, of[1])),
            changes.map((c) => read(c, of[2])),
          ]}
          set={(i, v) => put(of[i]!, v)}
        />
      ))}
      {words(picked.length).map((path) => (
        <SettingRow
          key={path}
          path={`setup.parts[].${path}`}
          values={changes.map((c) => read(c, path))}
          set={(v) => put(path, v)}
        />
      ))}
      {picked.length === 1 && (
        <FaceSet key={picked[0]} scene={scene} bench={bench} part={picked[0]!} ask={ask} made={pickNamed} />
      )}
      <div className={styles.actions}>
        <Tooltip title="Straight down onto what is under it, or up out of the floor; several parts as one">
          <Button
            size="small"
            className={styles.wide}
            loading={drop.isPending}
            onClick={() =>
              bench.awaits(
                drop.mutateAsync({ id: scene.scene.id, parts: parts.map((x) => x.key) }).then((d) =>
                  bench.put((now) => ({
                    parts: d.changes.map(({ part, shift }) => {
                      const at = scene.parts.findIndex((x) => x.key === part);
                      return { ...changeOf(now, scene, at), shift };
                    }),
                  })),
                ),
              )
            }
          >
            Lower onto what is below
          </Button>
        </Tooltip>
        <Tooltip title="From this page only; runs show it. Leave it out to take it from pictures.">
          <Button size="small" onClick={hide}>
            Hide
          </Button>
        </Tooltip>
        <Button size="small" onClick={() => put("out", !out)}>
          {out ? "Include again" : "Leave out"}
        </Button>
        <Button
          size="small"
          {...disabledIf(!changed)}
          onClick={() => bench.put({ parts: picked.map((i) => bench.back(i)) })}
        >
          As the file has it
        </Button>
      </div>
    </div>
  );
}
