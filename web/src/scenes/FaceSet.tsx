import { App, Button, InputNumber, Select } from "antd";
import { useState } from "react";
import { useChange, type Schemas } from "../api/http";
import { Row } from "../shared/Field";
import { growFaces, type SceneBody } from "../api/scenes";
import type { Bench } from "./useBench";
import styles from "./Picked.module.css";

type By = Schemas["Grow-facesRequest"]["by"];

const ways: { value: By; label: string }[] = [
  { value: "piece", label: "all that is connected" },
  { value: "angle", label: "up to an edge" },
  { value: "island", label: "its UV island" },
];

type Props = {
  scene: SceneBody;
  bench: Bench;
  part: number;
  ask: (a: { what: string; answer: (a: { part: number | null; point: number[] | null }) => void }) => void;
  /** A part of this name is there now. */
  made: (name: string) => void;
};

/** FaceSet makes a set of faces of a part one of its own, or gives it back. */
export function FaceSet({ scene, bench, part, ask, made }: Props) {
  const { message } = App.useApp();
  const [by, setBy] = useState<By>("piece");
  const [angle, setAngle] = useState(30);
  const grow = useChange(growFaces, []);
  const is = scene.parts[part]!;
  return (
    <>
      <Row label="Faces" help="Makes a set of faces a part of its own, with its own finish, place and mask.">
        <Select size="small" aria-label="Faces grown by" value={by} options={ways} onChange={setBy} />
      </Row>
      {by === "angle" && (
        <Row label="Angle" help="Faces that meet at a larger angle are not in the set. 0 to 180 deg.">
          <InputNumber
            size="small"
            min={0}
            max={180}
            suffix="deg"
            aria-label="Angle of faces"
            value={angle}
            onChange={(v) => v !== null && setAngle(v)}
          />
        </Row>
      )}
      <div className={styles.actions}>
        <Button
          size="small"
          loading={grow.isPending}
          onClick={() =>
            ask({
              what: `Click a face of ${is.name}`,
              answer: ({ part: hit, point }) => {
                if (hit !== part || !point) return void message.warning(`That is not on ${is.name}.`);
                bench.awaits(
                  grow.mutateAsync({ id: scene.scene.id, part: is.key, point, by, angle }).then((set) => {
                    bench.put((now) => ({ sets: [...now.sets, set] }));
                    made(set.name);
                  }),
                );
              },
            })
          }
        >
          Faces as a part
        </Button>
        {is.set && (
          <Button
            size="small"
            onClick={() => {
              const gone = new Set([is.key]);
              // What was taken out of it goes back with it.
              for (const s of bench.sets) if (gone.has(s.part)) gone.add(s.name);
              bench.put({ sets: bench.sets.filter((s) => !gone.has(s.name)), without: [...gone] });
              made("");
            }}
          >
            Back to its part
          </Button>
        )}
      </div>
    </>
  );
}
