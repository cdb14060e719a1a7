import { useMemo } from "react";
import type { Course } from "../api/noise";
import { Fold } from "../shared/Fold";
import { Plot, timeMarks } from "../shared/Plot";
import { tones } from "../shared/tones";
import { asSet, span, time } from "../shared/words";
import styles from "./NoisePage.module.css";

/** CourseCurve is how the noise of a run fell, against its target and the time that it was told to take. */
export function CourseCurve({ course }: { course: Course }) {
  const { points, target, forecast } = course;
  const data = useMemo(() => {
    const at = points.filter((p) => p.seconds > 0 && p.noise > 0);
    // The foot reaches as far as was told, so that the bar lies in the plot.
    const ends = forecast && target > 0 ? [forecast.low, forecast.high].filter((x) => x > 0) : [];
    const beyond = ends.filter((x) => x < (at[0]?.seconds ?? 0) || x > (at.at(-1)?.seconds ?? 0));
    const all = [...at, ...beyond.map((seconds) => ({ seconds, noise: null }))].sort((a, b) => a.seconds - b.seconds);
    return [all.map((p) => p.seconds), all.map((p) => p.noise), all.map(() => (target > 0 ? target : null))];
  }, [points, target, forecast]);
  if (points.length < 2)
    return <p className="faint">How the noise fell is drawn once a run has had its noise measured more than once.</p>;
  return (
    <figure className={styles.curve}>
      <Plot
        height={150}
        data={data}
        series={[
          { line: 1, tone: tones.ink },
          { line: 2, tone: tones.faint },
        ]}
        label="Noise over the time of rendering"
        marks={timeMarks}
        x={(v) => time(v)}
        y={(v) => `${asSet(v)} %`}
      >
        {(place) => {
          if (!forecast || target <= 0) return null;
          const [from, to, mid] = [forecast.low, forecast.high, forecast.mid].map((x) => place(x, target));
          return (
            <span
              className={styles.told}
              style={{ left: from!.x, top: from!.y, width: Math.max(3, to!.x - from!.x) }}
              title={`Told to take ${span(forecast.low, forecast.high)}`}
            >
              <i style={{ left: mid!.x - from!.x }} />
            </span>
          );
        }}
      </Plot>
      {target > 0 && (
        <figcaption className="faint">
          Target {target} %{forecast && `; told to take ${span(forecast.low, forecast.high)}, the amber bar`}
        </figcaption>
      )}
      <Fold line="Show as a table">
        <table className={styles.table}>
          <thead>
            <tr>
              <th>Time</th>
              <th>Samples</th>
              <th>Noise</th>
            </tr>
          </thead>
          <tbody>
            {points.map((p) => (
              <tr key={p.samples}>
                <td>{time(p.seconds)}</td>
                <td>{p.samples.toFixed(1)}</td>
                <td>{p.noise.toFixed(2)} %</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Fold>
    </figure>
  );
}
