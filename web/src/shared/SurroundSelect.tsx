import { Select } from "antd";
import type { Schemas } from "../api/http";
import { useSurrounds } from "../api/scenes";
import { Row } from "./Field";

type Picture = Schemas["SurroundSetting"]["picture"];

/** How a surround is told from others: several files may have one name, and their contents tell them apart. */
export const surroundName = (s: Schemas["Surround"], all: Schemas["Surround"][]) =>
  all.some((o) => o !== s && o.name === s.name) ? `${s.name}, ${s.sha256.slice(0, 6)}` : s.name;

/** SurroundSelect takes one of the environment pictures, or none. */
export function SurroundSelect({ picture, set }: { picture: Picture; set: (p: Picture) => void }) {
  const all = useSurrounds().data ?? [];
  return (
    <Row
      label="Picture"
      help="A Radiance .hdr or OpenEXR .exr picture, or an even tone. Pictures are added on the scenes page."
    >
      <Select
        size="small"
        value={picture.sha256 || picture.name}
        aria-label="Environment picture"
        options={[
          { value: "", label: "Even tone" },
          ...all.map((s) => ({ value: s.sha256, label: surroundName(s, all) })),
        ]}
        onChange={(sha256) => set({ name: all.find((s) => s.sha256 === sha256)?.name ?? "", sha256 })}
      />
    </Row>
  );
}
