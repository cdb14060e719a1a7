import type { Schemas } from "../../api/http";
import { CropGuides } from "../viewer/CropGuides";
import { useKeys } from "../useKeys";
import { bestOf, isClay, twinOf, type RunDetail } from "../../api/runs";
import { Desk } from "./Desk";
import { Sheet } from "./Sheet";
import styles from "./RunPicture.module.css";

type Props = {
  run: RunDetail;
  /** Crops of a frame of the same shape, to be drawn over it. */
  crops?: { crops: Schemas["Cropped"][]; width: number; height: number } | undefined;
  note?: string | undefined;
  /** Of a run that is finished and in clay, which of the two; swap shows the other. */
  clay: boolean;
  swap: () => void;
};

/** RunPicture is a run's beauty as its ticket looks at it, refining while it goes; of one finished and in clay, either. note is laid over it. */
export function RunPicture({ run, crops, note, clay, swap }: Props) {
  const best = bestOf(run);
  const twin = twinOf(run, best);
  useKeys(twin ? [{ key: "c", says: "Own finishes or clay", act: swap }] : []);
  const pass = clay && twin ? twin : best;
  return (
    <Desk width={run.run.width} height={run.run.height}>
      <Sheet run={run} pass={pass} side={1400} id="picture" />
      {crops && <CropGuides crops={crops.crops} width={crops.width} height={crops.height} />}
      {note && <div className={styles.note}>{note}</div>}
      {twin && (
        <button className={`handle ${styles.swap}`} onClick={swap} title="Key C: the run has made both">
          In {isClay(pass) ? "own finishes" : "clay"}
        </button>
      )}
    </Desk>
  );
}
