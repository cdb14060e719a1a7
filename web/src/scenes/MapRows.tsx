import { useState } from "react";
import { Button } from "antd";
import type { Schemas } from "../api/http";
import { Row } from "../shared/Field";
import { PictureSelect } from "../shared/PictureSelect";
import { SettingRow } from "../shared/SettingRow";
import type { Finish } from "./useBench";

type Map = Schemas["Map"];
type Key = "baseMap" | "roughnessMap" | "metalMap" | "glowMap" | "normalMap" | "heightMap";

/** The values of a finish that pictures can say. */
const uses: { key: Key; label: string; help: string }[] = [
  {
    key: "baseMap",
    label: "Colour picture",
    help: "Colours of the surface in sRGB, multiplied by the colour above.",
  },
  {
    key: "roughnessMap",
    label: "Roughness picture",
    help: "White gives the roughness set above, black a sharp mirror.",
  },
  {
    key: "metalMap",
    label: "Metal picture",
    help: "White is as metallic as set above. Mapped like the roughness picture.",
  },
  { key: "normalMap", label: "Normal map", help: "Bumps as directions, saved as data." },
  {
    key: "heightMap",
    label: "Height picture",
    help: "Bumps as heights: white is high. Used in place of a normal map.",
  },
  { key: "glowMap", label: "Glow picture", help: "Emitted colours, multiplied by the glow above." },
];

const numbers = ["strength", "tiling", "turn", "set"] as const;

/** MapRows choose the pictures that say values of a finish all over the surface. */
export function MapRows({ finish, put }: { finish: Finish; put: (finish: Finish, what: string) => void }) {
  const worn = uses.filter((u) => finish[u.key]);
  const [open, setOpen] = useState(false);
  const set = (key: Key, map: Map | undefined, what = "") => {
    const { [key]: _, ...rest } = finish;
    put(map ? { ...rest, [key]: map } : rest, what);
  };
  return (
    <>
      {(open ? uses : worn).map(({ key, label, help }) => {
        const map = finish[key];
        return (
          <div key={key}>
            <Row label={label} help={help}>
              <PictureSelect
                label={label}
                picture={map?.picture}
                set={(picture) => set(key, { ...(map ?? { set: 0, tiling: 1, turn: 0, strength: 100 }), picture })}
                off={() => set(key, undefined)}
              />
            </Row>
            {map &&
              numbers.map((n) => (
                <SettingRow
                  key={n}
                  path={`setup.finishes[].${key}.${n}`}
                  values={[map[n]]}
                  set={(v) => set(key, { ...map, [n]: v }, `${key} ${n}`)}
                />
              ))}
          </div>
        );
      })}
      <Button size="small" type="text" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Fewer pictures" : "Pictures on it"}
      </Button>
    </>
  );
}
