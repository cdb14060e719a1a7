import { Select } from "antd";
import { useMemo } from "react";
import { Link } from "react-router";
import { useDifferences } from "../api/jobs";
import { useCourse } from "../api/noise";
import { useRun, useRuns, type Run, type RunDetail } from "../api/runs";
import { Plot, timeMarks } from "../shared/Plot";
import { tones } from "../shared/tones";
import { asSet, clock, time } from "../shared/words";
import styles from "./NoisePage.module.css";

type Props = { run: RunDetail; other: number | undefined; choose: (id: number | undefined) => void };

/** Beside holds the noise and time of a run against those of another of its job. */
export function Beside({ run, other, choose }: Props) {
  const all = useRuns(run.run.job);
  const others = all.data?.pages.flatMap((p) => p.runs).filter((r) => r.id !== run.run.id && r.noise != null) ?? [];
  const detail = useRun(other);
  if (others.length === 0) return null;
  return (
    <section aria-label="Beside another run">
      <h2>Beside another run</h2>
      <Select
        size="small"
        style={{ width: "100%" }}
        aria-label="Run to hold it against"
        placeholder="choose a run of this job"
        allowClear
        value={others.some((r) => r.id === other) ? other : undefined}
        onChange={(id?: number) => choose(id)}
        options={others.map((r) => ({
          value: r.id,
          label: `Run ${r.number}: ${asSet(r.noise!)} % in ${clock(r.seconds)}`,
        }))}
      />
      {other !== undefined && detail.data?.run.id === other && <Both a={run} b={detail.data} />}
    </section>
  );
}

function Both({ a, b }: { a: RunDetail; b: RunDetail }) {
  const [one, two] = [useCourse(a, false).data?.points, useCourse(b, false).data?.points];
  const differ = useDifferences(
    a.run.job,
    { run: b.run.id, ticket: b.resolved.ticket },
    { run: a.run.id, ticket: a.resolved.ticket },
  );
  const data = useMemo(() => {
    const rows = [...(one ?? []).map((p) => ({ ...p, of: 0 })), ...(two ?? []).map((p) => ({ ...p, of: 1 }))]
      .filter((p) => p.seconds > 0 && p.noise > 0)
      .sort((x, y) => x.seconds - y.seconds);
    return [
      rows.map((p) => p.seconds),
      rows.map((p) => (p.of === 0 ? p.noise : undefined)),
      rows.map((p) => (p.of === 1 ? p.noise : undefined)),
    ];
  }, [one, two]);
  return (
    <>
      <table className={styles.both}>
        <thead>
          <tr>
            <th />
            <th>Run {a.run.number}</th>
            <th>Run {b.run.number}</th>
            <th>Ratio</th>
          </tr>
        </thead>
        <tbody>
          <Line name="Noise" a={a.run} b={b.run} of={(r) => r.noise ?? 0} say={(n) => `${n.toFixed(2)} %`} />
          <Line name="Time" a={a.run} b={b.run} of={(r) => r.seconds} say={clock} />
          <Line name="Samples" a={a.run} b={b.run} of={(r) => r.samples} say={(n) => n.toFixed(0)} />
        </tbody>
      </table>
      {(one?.length ?? 0) > 1 && (two?.length ?? 0) > 1 && (
        <Plot
          height={130}
          data={data}
          series={[
            { line: 1, tone: tones.ink },
            { line: 2, tone: tones.amber },
          ]}
          label={`Noise over time of run ${a.run.number}, light, and run ${b.run.number}, amber`}
          marks={timeMarks}
          x={time}
          y={(v) => `${asSet(v)} %`}
        />
      )}
      {differ.data &&
        (differ.data.length > 0 ? (
          <p className="faint">
            Run {b.run.number}: {differ.data.join("; ")}
          </p>
        ) : (
          <p className="faint">Their tickets say the same.</p>
        ))}
      <Link to={`/runs/${a.run.id}?mode=wipe&with=${b.run.id}`}>Look at both, wiped</Link>
    </>
  );
}

type LineProps = { name: string; a: Run; b: Run; of: (r: Run) => number; say: (n: number) => string };

/** Line is a figure of both, and how many times as large it is in the second. */
function Line({ name, a, b, of, say }: LineProps) {
  return (
    <tr>
      <th scope="row">{name}</th>
      <td>{say(of(a))}</td>
      <td>{say(of(b))}</td>
      <td>{of(a) > 0 ? `× ${(of(b) / of(a)).toPrecision(2)}` : ""}</td>
    </tr>
  );
}
