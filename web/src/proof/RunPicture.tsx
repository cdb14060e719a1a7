import type { RunBody } from "../api/client";
import { stateWords } from "../parts/words";
import { Desk } from "./Desk";
import { lookOf } from "./Thumb";
import { usePicture } from "./usePicture";

/** RunPicture is a run's beauty as its ticket looks at it, refining while it goes. */
export function RunPicture({ run }: { run: RunBody }) {
  const url = usePicture(run, "beauty", lookOf(run), 1400);
  return (
    <Desk width={run.width} height={run.height}>
      {url ? (
        <img className="sheet" src={url} alt={run.slug} style={placed(run)} draggable={false} data-testid="picture" />
      ) : (
        <div className="empty">
          Run {run.run.number} is {stateWords[run.run.state]}; it has no samples yet.
        </div>
      )}
    </Desk>
  );
}

/** placed puts the computed part where it lies in the frame. */
export function placed(run: RunBody): React.CSSProperties {
  const [x0, y0, x1, y1] = run.window as [number, number, number, number];
  const p = (v: number, of: number) => `${(v / of) * 100}%`;
  return {
    left: p(x0, run.width),
    top: p(y0, run.height),
    width: p(x1 - x0, run.width),
    height: p(y1 - y0, run.height),
  };
}
