import type { Schemas } from "../api/http";
import { CropGuides } from "../shared/CropGuides";
import { bestOf, type RunDetail } from "./api";
import { Desk } from "./Desk";
import { Sheet } from "./Sheet";
import styles from "./RunPicture.module.css";

type Props = {
  run: RunDetail;
  /** Crops of a frame of the same shape, to be drawn over it. */
  crops?: { crops: Schemas["Cropped"][]; width: number; height: number } | undefined;
  note?: string | undefined;
};

/** RunPicture is a run's beauty as its ticket looks at it, refining while it goes. note is laid over it. */
export function RunPicture({ run, crops, note }: Props) {
  return (
    <Desk width={run.run.width} height={run.run.height}>
      <Sheet run={run} pass={bestOf(run)} side={1400} id="picture" />
      {crops && <CropGuides crops={crops.crops} width={crops.width} height={crops.height} />}
      {note && <div className={styles.note}>{note}</div>}
    </Desk>
  );
}
