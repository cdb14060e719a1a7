import { ConfigProvider } from "antd";
import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Forecast } from "../api/jobs";
import { Fold } from "../shared/Fold";
import { Plot, timeMarks } from "../shared/Plot";
import { tones } from "../shared/tones";
import { asSet, span, time } from "../shared/words";
import styles from "./QualityCurve.module.css";

type Point = Forecast["curve"][number];

/** How many times the curve is read between its ends. */
const steps = 80;

/** between reads y at x from rising pairs, on logarithmic scales; beyond their ends, as at them. */
function between(pairs: [number, number][], x: number): number {
  const at = pairs.findIndex(([a]) => a >= x);
  if (at <= 0) return (at < 0 ? pairs.at(-1) : pairs[0])?.[1] ?? NaN;
  const [b, yb] = pairs[at]!;
  const [a, ya] = pairs[at - 1]!;
  return ya * (yb / ya) ** (Math.log(x / a) / Math.log(b / a));
}

/** rising are the points of a curve with ever more time and less noise. */
function rising(curve: Point[], of: (s: Point["seconds"]) => number): [number, number][] {
  const out: [number, number][] = [];
  for (const p of [...curve].reverse()) {
    if (!p.noise || p.noise.mid <= 0 || of(p.seconds) <= 0) continue;
    const last = out.at(-1);
    if (last && (of(p.seconds) <= last[0] || p.noise.mid >= last[1])) continue;
    out.push([of(p.seconds), p.noise.mid]);
  }
  return out;
}

/**
 * QualityCurve is noise against time for the ticket. The target is a handle on it: moved along the curve with the
 * pointer or with arrows, it sets the target; its time is told beside it.
 */
export function QualityCurve(p: { forecast: Forecast; target: number; set: (target: number) => void }) {
  const { curve } = p.forecast;
  const { componentDisabled: off } = ConfigProvider.useConfig();
  const [dragged, setDragged] = useState<number | null>(null);
  // What the pointer has come to: it may be let go before that is drawn.
  const come = useRef<number | null>(null);
  const drag = (to: number | null) => {
    come.current = to;
    setDragged(to);
  };
  const target = dragged ?? p.target;
  const mid = useMemo(() => rising(curve, (s) => s.mid), [curve]);
  const data = useMemo(() => {
    const low = rising(curve, (s) => s.low);
    const high = rising(curve, (s) => s.high);
    const from = Math.min(...[...low, ...mid].map(([x]) => x));
    const to = Math.max(...[...high, ...mid].map(([x]) => x));
    const x = Array.from({ length: steps + 1 }, (_, k) => from * (to / from) ** (k / steps));
    return [x, x.map((v) => between(high, v)), x.map((v) => between(low, v)), x.map((v) => between(mid, v))];
  }, [curve, mid]);
  if (mid.length < 2 || p.target <= 0) return null;

  const least = curve[0]!.target;
  const most = curve.at(-1)!.target;
  const held = (n: number) => asSet(Math.min(most, Math.max(least, n)));
  const by = (of: (c: Point) => number) => curve.map((c): [number, number] => [c.target, of(c)]);
  const seconds = between(
    by((c) => c.seconds.mid),
    target,
  );
  const noise = between(
    by((c) => c.noise?.mid ?? c.target),
    target,
  );
  const targetOf = (n: number) =>
    between(
      rising(curve, (s) => s.mid)
        .map(([, y]) => [y, curve.find((c) => c.noise?.mid === y)!.target] as [number, number])
        .reverse(),
      n,
    );
  const says = `${target} % in ${time(seconds)}`;

  const grab = (e: PointerEvent<HTMLElement>) => {
    e.preventDefault();
    e.currentTarget.setPointerCapture(e.pointerId);
    drag(p.target);
  };
  const letGo = () => {
    if (come.current !== null && come.current !== p.target) p.set(come.current);
    drag(null);
  };
  const press = (e: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowLeft: 1, ArrowDown: -1, ArrowRight: -1 }[e.key];
    if (!by) return;
    e.preventDefault();
    const step = (target < 1 ? 0.02 : 0.1) * (e.shiftKey ? 10 : 1);
    p.set(held(target + by * step));
  };
  return (
    <figure className={styles.curve}>
      <Plot
        height={148}
        data={data}
        series={[
          { between: [1, 2], tone: tones.wall },
          { line: 3, tone: tones.ink },
        ]}
        label="Noise over time for this ticket"
        marks={timeMarks}
        x={(v) => time(v)}
        y={(v) => `${asSet(v)} %`}
      >
        {(place) => {
          const at = place(seconds, noise);
          return (
            <button
              type="button"
              role="slider"
              className={styles.handle}
              disabled={off}
              style={{ left: at.x, top: at.y }}
              aria-label="Noise target"
              aria-valuemin={least}
              aria-valuemax={most}
              aria-valuenow={target}
              aria-valuetext={says}
              onPointerDown={grab}
              onPointerMove={(e) => {
                if (come.current === null) return;
                const box = e.currentTarget.parentElement!.getBoundingClientRect();
                drag(held(targetOf(place.noise(e.clientY - box.top))));
              }}
              onPointerUp={letGo}
              onPointerCancel={() => drag(null)}
              onKeyDown={press}
            >
              <span className={styles.says}>{says}</span>
            </button>
          );
        }}
      </Plot>
      <Fold line="Show as a table">
        <table className={styles.table}>
          <thead>
            <tr>
              <th>Target</th>
              <th>Time</th>
              <th>Noise</th>
              <th>Samples</th>
            </tr>
          </thead>
          <tbody>
            {curve.map((c) => (
              <tr key={c.target}>
                <td>{c.target} %</td>
                <td>{span(c.seconds.low, c.seconds.high)}</td>
                <td>{c.noise ? `${c.noise.mid.toFixed(2)} %` : "not told"}</td>
                <td>{Math.round(c.samples)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Fold>
    </figure>
  );
}
