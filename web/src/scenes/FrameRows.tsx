import { App, Button, InputNumber, Select, Tooltip } from "antd";
import { useState } from "react";
import { useChange, type Schemas } from "../api/http";
import { Row } from "../shared/Field";
import { frameScene, type Camera, type SceneBody } from "../api/scenes";
import { disabledIf } from "../shared/disabledIf";
import styles from "./ViewsPanel.module.css";

type Props = {
  scene: SceneBody;
  camera: () => Camera;
  seen: Camera;
  look: (c: Camera) => void;
  picked: string[];
  shape: string;
  onShape: (shape: string) => void;
};

/** Shapes of frames, width by height, for framing; a job has its own size in pixels. */
export const shapes: Record<string, number> = {
  "1:1": 1,
  "4:5": 4 / 5,
  "2:3": 2 / 3,
  "9:16": 9 / 16,
  "3:2": 3 / 2,
  "16:9": 16 / 9,
  "2:1": 2,
};

/** The height of the sensor that focal lengths are told for where nothing else is said, mm. */
const usualSensor = 24;
/** Heights of sensors in use, mm. */
const sensors = [
  { value: 24, label: "24 mm: 36 × 24" },
  { value: 15.6, label: "15.6 mm: 23.5 × 15.6" },
  { value: 13, label: "13 mm: 17.3 × 13" },
  { value: 33, label: "33 mm: 44 × 33" },
  { value: 40, label: "40 mm: 53 × 40" },
  { value: 100, label: "100 mm: 125 × 100" },
];

/** focalOf is a field of view the way photographers name it, mm. */
export const focalOf = (yfov: number, sensor = usualSensor) => sensor / 2 / Math.tan(yfov / 2);

/** FrameRows are what is done to a camera before it is saved as a view. */
export function FrameRows({ scene, camera, seen, look, picked, shape, onShape }: Props) {
  const { message } = App.useApp();
  const [margin, setMargin] = useState(8);
  const [sensor, setSensor] = useState(usualSensor);
  const frame = useChange(frameScene, []);
  const ask = (change: Omit<Schemas["Framing"], "camera" | "aspect">) =>
    frame.mutate(
      { id: scene.scene.id, camera: camera(), aspect: shapes[shape]!, ...change },
      { onSuccess: (f) => look(f.camera), onError: (e) => void message.error(e.message) },
    );
  return (
    <>
      <h2>Frame</h2>
      <Row label="Shape" help="Aspect of the frame shown here. A job has its own size in pixels.">
        <Select
          size="small"
          value={shape}
          aria-label="Shape of the frame"
          options={Object.keys(shapes).map((s) => ({ value: s, label: s }))}
          onChange={onShape}
        />
      </Row>
      <Row label="Sensor" help="Sensor height. With the focal length it sets the field of view.">
        <Select size="small" aria-label="Sensor" value={sensor} options={sensors} onChange={setSensor} />
      </Row>
      <Row label="Focal length" help="On the sensor above. The camera stays where it is. 1 to 5000 mm.">
        <InputNumber
          size="small"
          min={1}
          max={5000}
          suffix="mm"
          aria-label="Focal length"
          value={seen.yfov > 0 ? +focalOf(seen.yfov, sensor).toFixed(1) : null}
          onChange={(focal) => focal !== null && focal >= 1 && ask({ focal, sensor })}
        />
      </Row>
      <Row label="Margin" help="Free space at each side, in percent of the frame's shorter side. 0 to 45 %.">
        <InputNumber
          size="small"
          min={0}
          max={45}
          suffix="%"
          aria-label="Margin"
          value={margin}
          onChange={(v) => v !== null && setMargin(v)}
        />
      </Row>
      <div className={styles.pair}>
        <Button size="small" onClick={() => ask({ fit: { margin } })}>
          Fit the product
        </Button>
        <Button
          size="small"
          {...disabledIf(picked.length === 0)}
          onClick={() => ask({ fit: { margin, parts: picked } })}
        >
          Fit what is picked
        </Button>
        <Button size="small" onClick={() => ask({ roll: 0 })}>
          Level the horizon
        </Button>
        <Button size="small" {...disabledIf(picked.length === 0)} onClick={() => ask({ aim: picked })}>
          Aim at what is picked
        </Button>
        <Tooltip title="Levels the camera and shifts the frame instead, as a shift lens does">
          <Button className={styles.wide} size="small" onClick={() => ask({ upright: true })}>
            Keep verticals upright
          </Button>
        </Tooltip>
      </div>
      <ShiftRow seen={seen} look={(shift) => look({ ...camera(), ...shift })} />
      <Row label="Roll" help="About the line of sight, counter-clockwise. 0 is level. -180 to 180 degrees.">
        <InputNumber
          size="small"
          min={-180}
          max={180}
          suffix="deg"
          aria-label="Roll"
          value={+rollOf(seen).toFixed(1)}
          onChange={(roll) => roll !== null && ask({ roll })}
        />
      </Row>
    </>
  );
}

/** ShiftRow moves the frame against the lens, upwards and to the right: planes before the camera keep their shape. */
function ShiftRow({ seen, look }: { seen: Camera; look: (shift: Partial<Camera>) => void }) {
  return (
    <Row
      label="Lens shift"
      help="The frame moved up and to the right against the lens, in percent of it. -500 to 500."
      wide
    >
      <div className={styles.shift}>
        {(["shiftY", "shiftX"] as const).map((key) => (
          <InputNumber
            key={key}
            size="small"
            min={-500}
            max={500}
            step={1}
            prefix={key === "shiftY" ? "↑" : "→"}
            aria-label={key === "shiftY" ? "Lens shift up" : "Lens shift to the right"}
            value={+(seen[key] ?? 0).toFixed(1)}
            onChange={(v) => v !== null && look({ [key]: v })}
          />
        ))}
      </div>
    </Row>
  );
}

/** rollOf is how far a camera is turned about its line of sight, degrees against the clock. */
function rollOf(c: Camera): number {
  const m = c.matrix;
  // How high its right hand is, against how upright it stands.
  return (Math.atan2(-m[4]!, m[5]!) * 180) / Math.PI;
}
