import { Select } from "antd";
import type { Schemas } from "../api/http";
import { surroundShown, useSurrounds } from "../api/scenes";
import { Row } from "./Field";
import styles from "./SurroundSelect.module.css";

type Picture = Schemas["SurroundSetting"]["picture"];

/** How a surround is told from others: several files may have one name, and their contents tell them apart. */
export const surroundName = (s: Schemas["PictureFile"], all: Schemas["PictureFile"][]) =>
  all.some((o) => o !== s && o.name === s.name) ? `${s.name}, ${s.sha256.slice(0, 6)}` : s.name;

/** SurroundSelect takes one of the environment pictures, or none. */
export function SurroundSelect({ picture, set }: { picture: Picture; set: (p: Picture) => void }) {
  const all = useSurrounds().data ?? [];
  return (
    <>
      <Row
        label="Picture"
        help="A Radiance .hdr or OpenEXR .exr picture, or an even tone. Pictures are added on the scenes page."
      >
        <Select
          size="small"
          value={picture.sha256 || picture.name}
          aria-label="Environment picture"
          popupMatchSelectWidth={268}
          options={[
            { value: "", label: "Even tone" },
            ...all.map((s) => ({ value: s.sha256, label: surroundName(s, all) })),
          ]}
          optionRender={(o) => (
            <div className={styles.option}>
              {o.value && <img src={surroundShown(`${o.value}`)} alt="" loading="lazy" />}
              {o.label}
            </div>
          )}
          onChange={(sha256) => set({ name: all.find((s) => s.sha256 === sha256)?.name ?? "", sha256 })}
        />
      </Row>
      {picture.sha256 && (
        <img
          className={styles.shown}
          src={surroundShown(picture.sha256)}
          alt={`A ball in the light of ${picture.name}, and the picture unrolled`}
        />
      )}
    </>
  );
}
