import { App, Button, Select, Tooltip } from "antd";
import { useChange } from "../api/http";
import { Row } from "../shared/Field";
import { SettingRow, shared } from "../shared/SettingRow";
import { read, write, type PathOf } from "../shared/path";
import { count } from "../shared/words";
import { FinishRows } from "./FinishRows";
import { dropParts, type SceneBody } from "./api";
import type { Bench, Change } from "./useBench";
import styles from "./Picked.module.css";

/** The settings of a part's change, in the order of the panel. */
const places: PathOf<Change>[] = ["shift.x", "shift.y", "shift.z", "turn.x", "turn.y", "turn.z", "scale"];

/** Picked changes the parts that are picked, all at once. */
export function Picked({ scene, bench, picked }: { scene: SceneBody; bench: Bench; picked: number[] }) {
  const { message } = App.useApp();
  const drop = useChange(dropParts, []);
  const changes = picked.map((i) => bench.of(i));
  const parts = picked.map((i) => scene.parts[i]!);
  const put = (path: PathOf<Change>, value: unknown) =>
    bench.put({ parts: changes.map((c) => write(c, path, value)) }, `${path} ${picked.join()}`);
  const finish = shared(parts.map((p) => p.finish));
  const size = Math.max(...parts.map((p) => p.size));
  const changed = changes.some((c, k) => JSON.stringify(c) !== JSON.stringify(bench.back(picked[k]!)));
  const out = changes.every((c) => c.out);
  return (
    <div className={styles.picked} data-testid="picked">
      <h2>{picked.length === 1 ? parts[0]!.key : count(picked.length, "part")}</h2>
      <div className="faint">
        {picked.length === 1
          ? `${count(parts[0]!.faces, "face")}, ${size.toFixed(1)} mm`
          : `the largest ${size.toFixed(1)} mm`}
      </div>
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
      {finish !== undefined && <FinishRows key={finish} scene={scene} bench={bench} name={finish} picked={picked} />}
      {places.map((path) => (
        <SettingRow
          key={path}
          path={`setup.parts[].${path}`}
          values={changes.map((c) => read(c, path))}
          set={(v) => put(path, v)}
        />
      ))}
      <div className={styles.actions}>
        <Tooltip title="Straight down onto what is under it, or up out of the floor; several parts as one">
          <Button
            size="small"
            className={styles.wide}
            loading={drop.isPending}
            onClick={() =>
              drop.mutate(
                { id: scene.scene.id, parts: parts.map((x) => x.key) },
                {
                  onSuccess: (d) => bench.put({ parts: d.changes }),
                  onError: (e) => void message.error(e.message),
                },
              )
            }
          >
            Put on what is under it
          </Button>
        </Tooltip>
        <Button size="small" onClick={() => put("out", !out)}>
          {out ? "Put back in" : "Leave out"}
        </Button>
        <Button size="small" disabled={!changed} onClick={() => bench.put({ parts: picked.map((i) => bench.back(i)) })}>
          As the file has it
        </Button>
      </div>
    </div>
  );
}
