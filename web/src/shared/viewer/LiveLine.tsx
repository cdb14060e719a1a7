import { castWords, count } from "../words";
import { isCurrent, useLivePicture, type LiveFrame, type LivePicture, type LiveReading } from "./livePicture";
import { surfaceNames } from "./LiveControls";

type Props = {
  picture: LivePicture;
  /** The surfaces that the switch shows instead of the ticket's. */
  other: keyof typeof surfaceNames;
  /** Says of a part, by its key, what it wears in the picture and why. */
  why?: (key: string) => string;
  /** What stands here while there is no traced picture. */
  without?: string;
};

/** LiveLine says what a live picture is; while the pointer is over it, what lies there. */
export function LiveLine({ picture, other, why, without = "" }: Props) {
  const frame = useLivePicture(picture, (s) => (s.shown && isCurrent(s) ? s.frame : null));
  const { reading, wrong, swapped } = useLivePicture(picture, (s) => s);
  if (!frame) return wrong || without;
  const what = reading ? readingWords(reading, swapped ? undefined : why) : frameWords(frame);
  return `${swapped ? `in ${surfaceNames[other].toLowerCase()} · ` : ""}live · ${what}`;
}

function readingWords(r: LiveReading, why?: (key: string) => string): string {
  const values = r.values.map((v) => v.toPrecision(3)).join(" ");
  return `${r.key && why ? why(r.key) : r.part || "nothing"} · ${values} · shown ${r.display.join(" ")}`;
}

function frameWords(f: LiveFrame): string {
  const at = f.scale > 1 ? `at 1/${f.scale}, ` : "";
  const state = `${at}${count(f.samples, "sample")}${f.clean ? ", denoised" : ""}${f.done ? ", done" : ""}`;
  return `${state} · ${f.clipped.toFixed(1)}\u00a0% clipped, ${f.crushed.toFixed(1)}\u00a0% crushed${f.cast ? ` · ${castWords(f.cast)}` : ""}`;
}
