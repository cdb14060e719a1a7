import { Button, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import { ColourRow } from "../shared/ColourRow";
import { NameDialog } from "../shared/NameDialog";
import { RowMenu } from "../shared/RowMenu";
import type { SceneBody } from "../api/scenes";
import { pathOf, type Bench } from "./useBench";
import { disabledIf } from "../shared/disabledIf";
import styles from "./VariantsPanel.module.css";

type Variant = Schemas["Variant"];

type Props = {
  scene: SceneBody;
  bench: Bench;
  picked: number[];
  /** The one that the live picture shows; empty for none. */
  shown: string;
  onShown: (name: string) => void;
};

/** VariantsPanel lists the other looks of the product that jobs can ask for. */
export function VariantsPanel({ scene, bench, picked, shown, onShown }: Props) {
  const [naming, setNaming] = useState<{ was?: string } | null>(null);
  const put = (variants: Variant[]) => bench.put({ variants });
  const change = (name: string, to: Partial<Variant>) =>
    put(bench.variants.map((v) => (v.name === name ? { ...v, ...to } : v)));
  const dyeable = [...new Set(scene.finishes.slice(0, -1).map((f) => f.name))];
  /** What is picked wears now. */
  const worn = picked
    .filter((i) => !scene.parts[i]!.missing && !scene.parts[i]!.staged)
    .map((i) => ({ part: scene.parts[i]!.key, path: pathOf(scene, i), finish: scene.parts[i]!.finish }));
  const taking = (v: Variant): Variant => {
    const keys = new Set(worn.map((w) => w.part));
    return { ...v, wears: [...v.wears.filter((w) => !keys.has(w.part)), ...worn] };
  };
  const ofFile = scene.variants.filter((n) => !bench.variants.some((v) => v.name === n));
  const show = (name: string) => (
    <Button size="small" type="text" aria-pressed={shown === name} onClick={() => onShown(shown === name ? "" : name)}>
      {shown === name ? "Shown" : "Show"}
    </Button>
  );
  return (
    <div className={styles.variants}>
      {bench.variants.length + ofFile.length === 0 && (
        <p className="faint">
          A variant is another look of the product: give parts other finishes, pick them, and keep that as one. A job
          asks for it, or for all.
        </p>
      )}
      {bench.variants.map((v) => (
        <section key={v.name} className={styles.variant} data-testid="variant" aria-label={v.name}>
          <header>
            <h3>{v.name}</h3>
            {show(v.name)}
            <RowMenu
              name={v.name}
              actions={[
                { key: "rename", label: "Rename", run: () => setNaming({ was: v.name }) },
                {
                  key: "remove",
                  label: "Remove",
                  run: () => {
                    if (shown === v.name) onShown("");
                    put(bench.variants.filter((x) => x !== v));
                  },
                },
              ]}
            />
          </header>
          {v.wears.map((w) => (
            <div key={w.part} className={styles.row}>
              <span>{scene.parts.find((x) => x.key === w.part)?.name ?? w.part}</span>
              <span className="faint">{w.finish}</span>
              <Button
                size="small"
                type="text"
                aria-label={`${w.part} as it stands`}
                onClick={() => change(v.name, { wears: v.wears.filter((x) => x !== w) })}
              >
                ×
              </Button>
            </div>
          ))}
          {v.colours.map((d) => (
            <ColourRow
              key={d.finish}
              label={d.finish}
              value={d.colour}
              set={(colour) => change(v.name, { colours: v.colours.map((x) => (x === d ? { ...d, colour } : x)) })}
              before={
                <Button
                  size="small"
                  type="text"
                  aria-label={`${d.finish} as it stands`}
                  onClick={() => change(v.name, { colours: v.colours.filter((x) => x !== d) })}
                >
                  ×
                </Button>
              }
            />
          ))}
          <div className={styles.actions}>
            <Button size="small" {...disabledIf(worn.length === 0)} onClick={() => change(v.name, taking(v))}>
              Take in what is picked
            </Button>
            <Select
              size="small"
              aria-label={`Another colour in ${v.name}`}
              placeholder="Another colour"
              value={null}
              options={dyeable
                .filter((f) => !v.colours.some((d) => d.finish === f))
                .map((f) => ({ value: f, label: f }))}
              onChange={(finish: string | null) => {
                const drawn = scene.finishes.find((f) => f.name === finish)?.base;
                if (finish && drawn) change(v.name, { colours: [...v.colours, { finish, colour: drawn }] });
              }}
            />
          </div>
        </section>
      ))}
      {ofFile.map((n) => (
        <section key={n} className={styles.variant}>
          <header>
            <h3>{n}</h3>
            <span className="faint">of the file</span>
            {show(n)}
          </header>
        </section>
      ))}
      <Button size="small" block onClick={() => setNaming({})}>
        {worn.length > 0 ? "Keep what is picked as a variant" : "New variant"}
      </Button>
      {naming && (
        <NameDialog
          title={naming.was === undefined ? "New variant" : `Rename ${naming.was}`}
          ok={naming.was === undefined ? "Keep it" : "Rename"}
          was={naming.was ?? ""}
          cancel={() => setNaming(null)}
          done={(typed) => {
            const name = typed.trim();
            setNaming(null);
            if (naming.was === undefined) return put([...bench.variants, taking({ name, wears: [], colours: [] })]);
            if (shown === naming.was) onShown("");
            change(naming.was, { name });
          }}
        />
      )}
    </div>
  );
}
