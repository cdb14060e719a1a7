import type { UseQueryResult } from "@tanstack/react-query";
import type { Forecast } from "../api/jobs";
import { useNow } from "../shared/useNow";
import { clockTime, count, span, time } from "../shared/words";
import styles from "./ForecastLine.module.css";

type Props = { forecast: UseQueryResult<Forecast> };

/** Done is how long the run of a button takes, and when it is done. */
export function Done({ forecast: { data: f, isPlaceholderData: old } }: Props) {
  const now = useNow(15_000);
  if (!f || old) return null;
  const at = f.wait && new Date(now + (f.wait.mid + f.seconds.mid) * 1000);
  return (
    <span className={styles.done}>
      {time(f.seconds.mid)}
      {at && `, done ${clockTime(at)}`}
    </span>
  );
}

/** ForecastLine says what a run would take, and how sure that is. */
export function ForecastLine({ forecast, target }: Props & { target: number }) {
  const { data: f, isPlaceholderData: old, isFetching, error } = forecast;
  if (error) return <div className="faint">No forecast: {error.message}</div>;
  if (!f || old)
    return isFetching ? (
      <div className="faint" role="status">
        Measuring the picture for a forecast
      </div>
    ) : null;
  return (
    <div data-testid="forecast">
      <b>{span(f.seconds.low, f.seconds.high)}</b>
      {f.noise ? ` · noise ${f.noise.mid.toFixed(1)} %` : " · noise cannot be told"} ·{" "}
      {count(Math.round(f.samples), "sample")} a pixel
      {f.again && <div className="faint">By the last run of this picture</div>}
      {target > 0 && !f.reaches && (
        <div className={styles.short} role="alert">
          {f.noise
            ? `The most samples end it at ${f.noise.mid.toFixed(1)} %, before ${target} %. Raise them or the target.`
            : "Its noise cannot be measured: it needs at least two samples a pixel."}
        </div>
      )}
      {f.wait && f.wait.high > 1 && (
        <div className="faint">Begins in {span(f.wait.low, f.wait.high)}, after the runs before it</div>
      )}
      {!f.wait && <div className="faint">How long the runs before it take is not known</div>}
    </div>
  );
}
