import { App, Button, Popconfirm, Progress } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { useChange } from "../../api/http";
import { isGoing, useLive, type Progress as Going } from "../../api/live";
import { clock, left, noise, percent, stateWords, surfaceWords } from "../words";
import { askRun, removeRun, staleRuns, type Intent, type Run } from "../../api/runs";
import bits from "../bits.module.css";
import styles from "./RunLine.module.css";

/** slugOf says of a run what a list knows of it. */
const slugOf = (r: Run) =>
  [
    `${r.jobName} ${r.number}`,
    r.view,
    `${r.width} × ${r.height} px`,
    surfaceWords[r.surface],
    r.samples > 0 && `${r.samples.toFixed(0)} samples`,
    r.noise != null && `noise ${r.noise.toFixed(1)} %`,
    r.seconds > 0 && clock(r.seconds),
  ]
    .filter(Boolean)
    .join(" · ");

/** progressOf says how far a run that goes is. Tiles are told of once one is clean: before the least samples are in, none can be. */
const progressOf = (e: Going) =>
  [
    `${e.samples.toFixed(1)} samples`,
    noise(e.noise),
    e.settled > 0 && `${e.settled} of ${e.tiles} tiles clean`,
    `${Math.round(e.seconds)} s used`,
    e.left != null && `${left(e.left)} left`,
  ]
    .filter(Boolean)
    .join(" · ");

/** roughly is a number of which two digits count. */
const roughly = (n: number) => Number(n.toPrecision(2));

type Props = {
  run: Run;
  slug?: string;
  link?: boolean;
  /** It stands in a list or a panel, rather than under the picture as its slug. */
  flat?: boolean;
  /** What else can be done with it. */
  children?: ReactNode;
};

/** RunLine says how a run is doing and what can be done with it. */
export function RunLine({ run, slug, link = true, flat, children }: Props) {
  const e = useLive((s) => s.runs[run.id]);
  const { message } = App.useApp();
  const fail = { onError: (x: Error) => void message.error(x.message) };
  const ask = useChange(askRun, staleRuns);
  const remove = useChange(removeRun, staleRuns);
  const live = e && isGoing(e.state) ? e : null;
  const state = live?.state ?? run.state;
  // Only the button that was pressed waits: who has resumed a run may stop it at once.
  const want = (intent: Intent, words: string, type?: "primary") => (
    <Button
      size="small"
      type={type}
      loading={ask.isPending && ask.variables.intent === intent}
      onClick={() => ask.mutate({ id: run.id, intent }, fail)}
    >
      {words}
    </Button>
  );
  const share = live?.share ?? run.share;
  return (
    <div className={flat ? `${styles.line} ${styles.flat}` : styles.line} data-testid="run-line">
      <div className={flat ? "mono" : `${bits.slug} ${styles.words} mono`} data-testid="slug">
        {live ? `${run.jobName} ${run.number} · ${live.note || progressOf(live)}` : (slug ?? slugOf(run))}
      </div>
      {(isGoing(state) || (state !== "done" && share > 0)) && (
        <Progress
          percent={Math.floor(share * 100)}
          size="small"
          status={isGoing(state) ? "active" : "normal"}
          format={() => percent(share)}
          aria-label={`Progress of ${run.jobName} ${run.number}`}
        />
      )}
      <div className={styles.tools}>
        <span className={styles.state} data-testid="state">
          {stateWords[state]}
          {state === "stopping" && run.intent === "keep" && ", to be kept"}
        </span>
        {live?.ending != null && (
          <span className={bits.notice} role="status" data-testid="misses">
            Will end at {live.ending.toFixed(1)} %, above its target {run.target} %: the most samples are too few, about{" "}
            {roughly(live.needs)} would do. Once done, it can go on from there.
          </span>
        )}
        {run.background && <span className="faint">in the background</span>}
        {run.fault && (
          <span className={bits.notice} role="alert">
            {run.fault}
          </span>
        )}
        {(state === "running" || state === "queued") && want("stop", "Stop")}
        {(state === "running" || (["stopped", "failed"].includes(state) && run.least > 0)) &&
          want("keep", state === "running" ? "Stop and keep" : "Keep")}
        {["stopped", "failed", "kept", "cancelled"].includes(state) && want("resume", "Resume", "primary")}
        {["queued", "running", "stopped"].includes(state) && (
          <Popconfirm
            title="Throw away what it has rendered?"
            okText="Cancel the run"
            cancelText="Go on"
            onConfirm={() => ask.mutate({ id: run.id, intent: "cancel" }, fail)}
          >
            <Button size="small" type="text">
              Cancel
            </Button>
          </Popconfirm>
        )}
        {["failed", "cancelled"].includes(state) && (
          <Button size="small" type="text" onClick={() => remove.mutate({ id: run.id, delivered: false }, fail)}>
            Remove
          </Button>
        )}
        {children}
        {link && <Link to={`/runs/${run.id}`}>Open the proof</Link>}
      </div>
    </div>
  );
}
