import { Button, Input, Select, Switch, Tooltip } from "antd";
import type { Schemas } from "../api/http";
import { useSettings } from "../api/jobs";
import { Row } from "../shared/Field";
import { useKeys } from "../shared/useKeys";
import { LightRows, type Light } from "./LightRows";
import type { SceneBody } from "../api/scenes";
import type { Stage } from "./useBench";
import { disabledIf } from "../shared/disabledIf";
import styles from "./LightList.module.css";

type Props = {
  scene: SceneBody;
  stage: Stage;
  put: (change: Partial<Stage>, what?: string) => void;
  picked: number[];
  onPick: (lights: number[]) => void;
  dark: string[];
  onDark: (names: string[]) => void;
  ask: (a: { what: string; answer: (a: { point: number[] | null }) => void }) => void;
};

/** The name under which the surround is kept dark. */
const surround = "surround";

/** free is a name like another that no light of the stage has. */
function free(lights: Light[], like: string): string {
  const taken = new Set(lights.map((l) => l.name.toLowerCase()));
  const stem = like.replace(/ \d+$/, "");
  let out = stem;
  for (let n = 2; taken.has(out.toLowerCase()); n++) out = `${stem} ${n}`;
  return out;
}

/** LightList are the lights of the stage; those that are picked are changed together. */
export function LightList(p: Props) {
  const { scene, stage, put, picked } = p;
  const { data } = useSettings();
  const named = data?.settings.find((s) => s.path === "setup.stage.lights[].name")?.help;
  const lights = stage.lights;
  const lit = (i: number) => scene.lit[i]; // a moment behind, while a change is being saved
  const names = [...scene.lamps.map((l) => l.name), surround];
  const change = (light: (l: Light, i: number) => Light, what = "") =>
    put({ lights: lights.map((l, i) => (picked.includes(i) ? light(l, i) : l)) }, what);
  const add = (kind: Light["kind"]) => {
    const defaults = Object.fromEntries(
      (data?.settings ?? [])
        .filter((s) => /^setup\.stage\.lights\[\]\.\w+$/.test(s.path) && s.default !== undefined)
        .map((s) => [s.path.split(".").at(-1), s.default]),
    ) as unknown as Light;
    const round = (mm: number) => +mm.toPrecision(2);
    put({
      lights: [
        ...lights,
        {
          ...defaults,
          kind,
          name: free(lights, "Light"),
          distance: round(4 * stage.radius),
          width: round(kind === "spot" ? stage.radius / 5 : 2 * stage.radius),
          length: round(2 * stage.radius),
          aim: { x: 0, y: 0, z: 0 },
          colour: { r: 1, g: 1, b: 1 },
        },
      ],
    });
    p.onPick([lights.length]);
  };
  const alone = (name: string) => {
    const others = names.filter((n) => n !== name);
    p.onDark(p.dark.length === others.length && others.every((n) => p.dark.includes(n)) ? [] : others);
  };
  const namesPicked = picked.map((i) => lit(i)?.name ?? lights[i]!.name);
  useKeys([
    {
      key: "o",
      says: "Only the lights that are picked",
      act: () => namesPicked.length > 0 && p.onDark(names.filter((n) => !namesPicked.includes(n))),
    },
    { key: "w", says: "Without the lights that are picked", act: () => p.onDark(namesPicked) },
    { key: "e", says: "Every light", act: () => p.onDark([]) },
  ]);
  return (
    <>
      <div className={styles.list} role="group" aria-label="Lights of the stage">
        {lights.map((l, i) => {
          const name = lit(i)?.name ?? l.name;
          return (
            <LightLine
              key={i}
              light={l}
              gives={lit(i)}
              picked={picked.includes(i)}
              alone={p.dark.length > 0 && !p.dark.includes(name)}
              onSwitch={(on) => put({ lights: lights.map((x, k) => (k === i ? { ...x, on } : x)) })}
              onPick={(more) => {
                if (!more) return p.onPick(picked.length === 1 && picked[0] === i ? [] : [i]);
                p.onPick(picked.includes(i) ? picked.filter((k) => k !== i) : [...picked, i]);
              }}
              onAlone={() => alone(name)}
            />
          );
        })}
        {lights.length === 0 && <p className="faint">No lights yet.</p>}
      </div>
      {p.dark.length > 0 && (
        <Button size="small" block onClick={() => p.onDark([])}>
          All lights again
        </Button>
      )}
      {picked.length > 0 && (
        <p className="faint">
          <kbd>O</kbd> only what is picked, <kbd>W</kbd> without it, <kbd>E</kbd> every light
        </p>
      )}
      <div className={styles.actions}>
        <Select
          size="small"
          value={null}
          placeholder="Add a light"
          aria-label="Add a light"
          options={["rectangle", "disk", "sphere", "spot", "sun"].map((k) => ({ value: k, label: k }))}
          onChange={(k: Light["kind"] | null) => k && add(k)}
        />
        <Button
          size="small"
          {...disabledIf(picked.length === 0)}
          onClick={() => {
            const all = [...lights];
            for (const i of picked) all.push({ ...lights[i]!, name: free(all, lights[i]!.name) });
            put({ lights: all });
            p.onPick(picked.map((_, k) => lights.length + k));
          }}
        >
          Copy
        </Button>
        <Button
          size="small"
          {...disabledIf(picked.length === 0)}
          onClick={() => {
            put({ lights: lights.filter((_, i) => !picked.includes(i)) });
            p.onPick([]);
          }}
        >
          Remove
        </Button>
      </div>
      {picked.length === 1 && lights[picked[0]!] && (
        <Row label="Name" help={named}>
          <Input
            key={`${picked[0]} ${lights[picked[0]!]!.name}`}
            size="small"
            defaultValue={lights[picked[0]!]!.name}
            aria-label="Name of the light"
            maxLength={100}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name !== "" && name !== lights[picked[0]!]!.name) change((l) => ({ ...l, name }));
            }}
            onPressEnter={(e) => e.currentTarget.blur()}
          />
        </Row>
      )}
      {picked.some((i) => lights[i]) && (
        <LightRows
          lights={picked.flatMap((i) => lights[i] ?? [])}
          gives={picked.map((i) => lit(i))}
          change={(f, what) => change((l, i) => f(l, picked.indexOf(i)), what && `${what} ${picked.join()}`)}
          aim={() =>
            p.ask({
              what: "Click what the light is to shine at",
              answer: ({ point }) => {
                if (!point) return;
                const m = stage.middle;
                const round = (v: number) => Math.round(v * 10) / 10;
                change((l) => ({
                  ...l,
                  aim: {
                    x: round(point[0]! * 1000 - m.x),
                    y: round(point[1]! * 1000 - m.y),
                    z: round(point[2]! * 1000 - m.z),
                  },
                }));
              },
            })
          }
        />
      )}
    </>
  );
}

type LineProps = {
  light: Light;
  gives: Schemas["LitBody"] | undefined;
  picked: boolean;
  /** It alone shines, or is one of those that do. */
  alone: boolean;
  onSwitch: (on: boolean) => void;
  onPick: (more: boolean) => void;
  onAlone: () => void;
};

/** LightLine is a light in the list: switched, picked, or left to shine alone. */
function LightLine({ light: l, gives, picked, alone, onSwitch, onPick, onAlone }: LineProps) {
  return (
    <div className={styles.light} data-picked={picked || undefined}>
      <Switch size="small" checked={l.on} aria-label={`${l.name} on`} onChange={onSwitch} />
      <button
        data-testid="stage-light"
        aria-pressed={picked}
        onClick={(e) => onPick(e.shiftKey || e.ctrlKey || e.metaKey)}
      >
        <b title={l.kind}>{l.name}</b>
        <span className="faint mono">
          {gives ? `${+gives.lux.toPrecision(3)} lx` : "…"}
          {gives && gives.ev < -0.005 && ` · ${gives.ev.toFixed(1)} EV`}
        </span>
      </button>
      <Tooltip title="Show only this light in the live picture; press again to show all">
        <Button
          size="small"
          type={alone ? "primary" : "text"}
          {...disabledIf(!l.on)}
          aria-label={`${l.name} alone`}
          aria-pressed={alone}
          onClick={onAlone}
        >
          alone
        </Button>
      </Tooltip>
    </div>
  );
}
