import { App, Button, InputNumber } from "antd";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../api/http";
import { goOn, useFurther, type Area, type Further } from "../api/noise";
import { staleRuns, type RunDetail } from "../api/runs";
import { Row } from "../shared/Field";
import { disabledIf } from "../shared/disabledIf";
import { useNow } from "../shared/useNow";
import { clockTime, count, span } from "../shared/words";
import bits from "../shared/bits.module.css";

type Props = {
  run: RunDetail;
  /** That goes on; null: the whole picture. */
  area: Area | null;
};

/** How long typing must rest before it is worked out what it would take. */
const rest = 300;

/** stricter is a target that is worth going on to. */
const stricter = (n: number) => Math.max(0.05, Number((n / 2).toFixed(n < 2 ? 2 : 1)));

/** GoOn makes the picture cleaner from where it stands: all of it, or an area. */
export function GoOn({ run, area }: Props) {
  const { message } = App.useApp();
  const navigate = useNavigate();
  const now = useNow(15_000);
  const { quality } = run.resolved.ticket;
  const [set, setSet] = useState<{ noise?: number; most?: number }>({});
  const to: Further = {
    noise: set.noise ?? (quality.noise > 0 ? stricter(quality.noise) : 0),
    most: set.most ?? Math.min(65536, quality.noise > 0 ? Math.max(quality.most, 4 * quality.least) : 2 * quality.most),
    area,
  };
  const [settled, settle] = useState(to);
  const key = JSON.stringify(to);
  useEffect(() => {
    const timer = setTimeout(() => settle(JSON.parse(key) as Further), rest);
    return () => clearTimeout(timer);
  }, [key]);
  const told = useFurther(run.run.id, settled, true);
  const current = JSON.stringify(settled) === key && !told.isPlaceholderData && !told.isFetching;
  const go = useChange(goOn, staleRuns);
  const start = () =>
    go.mutate(
      { id: run.run.id, to },
      {
        onSuccess: (r) => navigate(`/runs/${r.id}/noise`),
        onError: (e) => void message.error(e.faults[0]?.message ?? e.message),
      },
    );
  const words = [
    area ? "Make the area cleaner" : "Make it cleaner",
    to.noise > 0 ? `${to.noise} %` : count(to.most, "sample"),
  ];
  if (current && told.data?.wait && told.data.seconds.mid > 0)
    words.push(`done ${clockTime(new Date(now + (told.data.wait.mid + told.data.seconds.mid) * 1000))}`);
  const wrong =
    told.error && current ? (told.error as { faults?: { message: string }[] }).faults?.[0]?.message : undefined;
  return (
    <section aria-label="Go on from here">
      <h2>Go on from here</h2>
      <p className="faint">
        A new run that keeps every sample of this one{area ? "; only the area gets more" : ""}. This one stays as it is.
      </p>
      <Typed
        label="Noise target"
        help="Percent of display white. 0: the most samples, wherever it goes on."
        unit="%"
        value={to.noise}
        range={{ min: 0, max: 100, step: 0.1 }}
        set={(noise) => setSet({ ...set, noise })}
      />
      <Typed
        label="Most samples"
        help="Samples that no pixel goes beyond."
        unit="spp"
        value={to.most}
        range={{ min: 1, max: 65536, precision: 0 }}
        set={(most) => setSet({ ...set, most })}
      />
      {told.error && current ? (
        <div className={bits.notice} role="alert">
          {wrong ?? told.error.message}
        </div>
      ) : told.data && current ? (
        <p data-testid="further">
          {told.data.seconds.mid > 0 ? (
            <>
              <b>{span(told.data.seconds.low, told.data.seconds.high)}</b> ·{" "}
              {count(Math.max(1, Math.round(told.data.samples)), "sample")} more a pixel, mean
              {told.data.noise != null && ` · from ${told.data.noise.toFixed(2)} %`}
            </>
          ) : (
            "Nothing is left to do for that: it is as clean already."
          )}
        </p>
      ) : (
        <p className="faint">Working out what it takes</p>
      )}
      <Button
        type="primary"
        block
        loading={go.isPending}
        {...disabledIf(!current || !!told.error || told.data?.seconds.mid === 0)}
        onClick={start}
        data-testid="go-on"
      >
        {words.join(", ")}
      </Button>
    </section>
  );
}

type TypedProps = {
  label: string;
  help: string;
  unit: string;
  value: number;
  range: { min: number; max: number; step?: number; precision?: number };
  set: (v: number) => void;
};

/** Typed is a number that the picture goes on to. */
function Typed({ label, help, unit, value, range, set }: TypedProps) {
  return (
    <Row label={label} help={help}>
      <InputNumber
        size="small"
        value={value}
        {...range}
        suffix={unit}
        aria-label={`${label} to go on to`}
        onChange={(v) => v !== null && set(v)}
      />
    </Row>
  );
}
