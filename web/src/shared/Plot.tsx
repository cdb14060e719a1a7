import { useEffect, useRef, useState, type ReactNode } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { tones, typefaces } from "./tones";
import styles from "./Plot.module.css";

/** Times that may stand along a foot: seconds, minutes, hours. */
export const timeMarks = [1, 60, 3600].flatMap((unit) => [1, 2, 5, 10, 30].map((n) => n * unit));

/** What is drawn: a line through a column of the data, or a band between two. */
export type Series = { line: number; tone: string } | { between: [number, number]; tone: string };

/** Place is where values lie in the plot, pixels from its upper left, and which value lies at a height. */
export type Place = ((x: number, y: number) => { x: number; y: number }) & { noise: (top: number) => number };

type Props = {
  height: number;
  /** Columns: the first is along the foot. */
  /** null is a gap; undefined is drawn over. */
  data: (number | null | undefined)[][];
  series: Series[];
  /** What is shown, for who does not see it. */
  label: string;
  /** Words of a value along the foot, and up the side. */
  x: (v: number) => string;
  y: (v: number) => string;
  /** Values that may stand along the foot; without, 1, 2 and 5 times powers of ten. */
  marks?: number[];
  /** What lies over the plot. */
  children?: (place: Place) => ReactNode;
};

/** Plot draws curves on logarithmic scales. */
export function Plot(p: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<{ plot: uPlot; size: number } | null>(null);
  const made = useRef<uPlot | null>(null);
  const words = useRef(p);
  words.current = p;
  const shape = JSON.stringify(p.series);
  useEffect(() => {
    const of = box.current!;
    const { series, data, height } = words.current;
    const bands = series.flatMap((s) => ("between" in s ? [{ series: s.between, fill: s.tone }] : []));
    const axis = (say: (v: number) => string, size: number, space: number): uPlot.Axis => ({
      stroke: tones.faint,
      font: `12px ${typefaces.narrow}`,
      grid: { stroke: tones.rule, width: 1 },
      ticks: { show: false },
      size,
      space,
      splits: (u, at) =>
        at === 0 && words.current.marks
          ? words.current.marks.filter((v) => v >= u.scales.x!.min! && v <= u.scales.x!.max!)
          : marks(u, at),
      filter: (_, all) => all,
      values: (_, all) => all.map(say),
    });
    const plot = new uPlot(
      {
        width: of.clientWidth,
        height,
        padding: [10, 12, 0, 0],
        legend: { show: false },
        cursor: { show: false },
        scales: {
          x: { time: false, distr: 3, range: (_, low, high) => [low, high] },
          y: { distr: 3, range: (_, low, high) => [low / 1.1, high * 1.1] },
        },
        axes: [axis((v) => words.current.x(v), 22, 56), axis((v) => words.current.y(v), 40, 30)],
        series: data.map((_, k) => {
          const line = series.find((s) => "line" in s && s.line === k);
          return k === 0 ? {} : { stroke: line?.tone, width: line ? 2 : 0, points: { show: false } };
        }),
        bands,
        // Where values lie is known once it is drawn, which is some time after it is asked for.
        hooks: { draw: [(u) => setDrawn({ plot: u, size: u.width })] },
      },
      data as uPlot.AlignedData,
      of,
    );
    made.current = plot;
    const watch = new ResizeObserver(() => {
      if (of.clientWidth === plot.width || of.clientWidth === 0) return;
      plot.setSize({ width: of.clientWidth, height });
    });
    watch.observe(of);
    return () => {
      watch.disconnect();
      plot.destroy();
      made.current = null;
    };
  }, [shape]);
  useEffect(() => {
    made.current?.setData(p.data as uPlot.AlignedData);
  }, [p.data]);
  const ratio = window.devicePixelRatio;
  const place = drawn && placeIn(drawn.plot, ratio);
  return (
    <div className={styles.plot} style={{ height: p.height }}>
      <div ref={box} role="img" aria-label={p.label} />
      {place && p.children?.(place)}
    </div>
  );
}

function placeIn(plot: uPlot, ratio: number): Place {
  const top = plot.bbox.top / ratio;
  const left = plot.bbox.left / ratio;
  const at = (x: number, y: number) => ({ x: left + plot.valToPos(x, "x"), y: top + plot.valToPos(y, "y") });
  return Object.assign(at, { noise: (y: number) => plot.posToVal(y - top, "y") });
}

/** marks are round values between the ends of a scale: 1, 2 and 5 times a power of ten. */
function marks(u: uPlot, axis: number): number[] {
  const { min = 1, max = 10 } = u.scales[axis === 0 ? "x" : "y"]!;
  const all: number[] = [];
  for (let e = Math.floor(Math.log10(min ?? 1)); e <= Math.ceil(Math.log10(max ?? 10)); e++)
    for (const m of [1, 2, 5]) {
      const v = m * 10 ** e;
      if (v >= min! && v <= max!) all.push(v);
    }
  return all.length > 1 ? all : [min!, max!];
}
