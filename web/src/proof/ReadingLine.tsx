import type { Schemas } from "../api/http";

const number = (v: number) => (Math.abs(v) >= 100 ? v.toFixed(1) : v.toFixed(4));

/** ReadingLine says what lies under the pointer: values, what is shown of them, and the part. */
export function ReadingLine({ r, data }: { r: Schemas["Reading"]; data: boolean }) {
  return (
    <>
      {r.x}, {r.y}
      {r.values.length <= 4 && ` · ${data ? "value" : "scene-linear"} ${r.values.map(number).join(" ")}`}
      {r.display.length > 0 && ` → shown ${r.display.join(" ")}`} ·{" "}
      {r.part ? `${r.part}, ${r.wears === r.finish ? r.finish : `${r.wears} over ${r.finish}`}` : "nothing"} ·{" "}
      {r.samples} samples
    </>
  );
}
