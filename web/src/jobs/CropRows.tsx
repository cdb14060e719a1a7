import { Button, Input, Select } from "antd";
import type { Schemas } from "../api/http";
import { Row, useEditing } from "../shared/Field";
import { SettingRow } from "../shared/SettingRow";
import type { SectionProps } from "./props";
import styles from "./CropRows.module.css";

type Crop = Schemas["Crop"];

/** Shapes that are asked for again and again. */
const shapes: [string, number, number][] = [
  ["Square", 1, 1],
  ["Upright 4:5", 4, 5],
  ["Upright 2:3", 2, 3],
  ["Tall 9:16", 9, 16],
  ["Wide 16:9", 16, 9],
  ["Wide 3:2", 3, 2],
  ["Banner 3:1", 3, 1],
  ["Own shape", 5, 4],
];

const numbers = ["wide", "high", "size", "x", "y"] as const;

/** CropRows are the pictures of other shapes that are cut out of the frame. */
export function CropRows({ outlook }: SectionProps) {
  const { ticket, set, faults } = useEditing();
  const crops = ticket.output.crops ?? [];
  const put = (c: Crop[]) => set("output.crops", c);
  const change = (i: number, to: Partial<Crop>) => put(crops.map((c, k) => (k === i ? { ...c, ...to } : c)));
  const free = (name: string) => {
    let out = name;
    for (let n = 2; crops.some((c) => c.name === out); n++) out = `${name} ${n}`;
    return out;
  };
  return (
    <>
      {crops.map((c, i) => {
        const cut = outlook?.crops.find((o) => o.name === c.name);
        return (
          <section key={i} className={styles.crop} aria-label={`Crop ${c.name}`} data-testid="crop">
            <Row
              label={cut ? `Crop, ${cut.width} × ${cut.height} px` : "Crop"}
              help="The crop's name goes into its file names."
              fault={faults.find((f) => f.path.startsWith(`output.crops[${i}]`))?.message}
            >
              <Input
                size="small"
                aria-label={`Name of crop ${i + 1}`}
                value={c.name}
                onChange={(e) => change(i, { name: e.target.value })}
              />
              <Button
                size="small"
                type="text"
                aria-label={`Remove the crop ${c.name}`}
                onClick={() => put(crops.filter((_, k) => k !== i))}
              >
                ×
              </Button>
            </Row>
            {numbers.map((key) => (
              <SettingRow
                key={key}
                path={`output.crops[].${key}`}
                values={[c[key]]}
                set={(v) => change(i, { [key]: v })}
              />
            ))}
          </section>
        );
      })}
      <Select
        size="small"
        className={styles.add}
        aria-label="Add a crop"
        placeholder="Add a crop"
        value={null}
        options={shapes.map(([name]) => ({ value: name, label: name }))}
        onChange={(chosen: string | null) => {
          const shape = shapes.find(([name]) => name === chosen);
          if (!shape) return;
          const [name, wide, high] = shape;
          put([...crops, { name: free(name), wide, high, size: 100, x: 50, y: 50 }]);
        }}
      />
      {crops.length > 0 && ticket.view.region.on && <p className="faint">A region is delivered without crops.</p>}
      {crops.length > 0 && ticket.output.png === "none" && <p className="faint">Crops are PNGs; switch them on.</p>}
    </>
  );
}
