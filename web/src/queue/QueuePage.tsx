import { ArrowDownOutlined, ArrowUpOutlined, HolderOutlined, VerticalAlignTopOutlined } from "@ant-design/icons";
import { App, Button, Progress } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useChange, type Schemas } from "../api/http";
import { Where } from "../shared/Where";
import { placeRun, removeRun, staleRuns, useQueue, useRuns, type Run } from "../api/runs";
import { RunLine } from "../shared/proof/RunLine";
import { Thumb } from "../shared/proof/Thumb";
import { RowMenu } from "../shared/RowMenu";
import { clock, clockTime, count, stateWords, surfaceWords, time } from "../shared/words";
import { endsIn, placed } from "./moved";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./QueuePage.module.css";

const endedStates = "stopped,done,kept,failed,cancelled";

export function QueuePage() {
  const queue = useQueue();
  const ended = useRuns(0, endedStates);
  const past = ended.data?.pages.flatMap((p) => p.runs) ?? [];
  const now = queue.data?.runs.filter((r) => r.state !== "queued") ?? [];
  const waiting = queue.data?.runs.filter((r) => r.state === "queued") ?? [];
  return (
    <div className={lists.page}>
      <Where title="Queue">
        <b>Queue</b>
      </Where>
      <header>
        <h1>Now and next</h1>
      </header>
      {queue.error && (
        <div className={bits.notice} role="alert">
          {queue.error.message}
        </div>
      )}
      {queue.data && now.length + waiting.length === 0 && (
        <p className="faint">
          Nothing is running or waiting. The amber button of a <Link to="/jobs">job</Link> puts its run here.
        </p>
      )}
      {now.map((r) => (
        <div key={r.id} className={`${lists.row} ${styles.row}`}>
          <Thumb run={r} scene={r.scene} view={r.view} />
          <RunLine run={r} flat>
            <Ends run={r} since={queue.dataUpdatedAt} />
          </RunLine>
        </div>
      ))}
      {queue.data && queue.data.workers.length > 0 && <Workers list={queue.data.workers} />}
      <Waiting runs={waiting} begins={Math.max(0, ...now.map((r) => r.ends?.mid ?? 0))} since={queue.dataUpdatedAt} />
      <header className={lists.second}>
        <h1>Ended</h1>
      </header>
      {ended.data && past.length === 0 && <p className="faint">Runs that have ended are listed here, newest first.</p>}
      {past.map((r) => (
        <Ended key={r.id} run={r} />
      ))}
      {ended.hasNextPage && (
        <Button className={lists.more} loading={ended.isFetchingNextPage} onClick={() => void ended.fetchNextPage()}>
          Show more
        </Button>
      )}
    </div>
  );
}

/** Workers shows what each worker is doing. */
function Workers({ list }: { list: Schemas["WorkerBody"][] }) {
  return (
    <div className={styles.workers} role="group" aria-label="Workers">
      {list.map((w, i) => (
        <span key={i} className={bits.stamp}>
          worker {i + 1}: {w.busy ? `tile ${w.tile + 1}, samples ${w.from + 1}–${w.to}` : "waits"} ·{" "}
          {count(w.units, "unit")} done
        </span>
      ))}
    </div>
  );
}

/** leastMoved is by how many seconds a run must end later or sooner for that to be said. */
const leastMoved = 30;

/** Ends is when a run will be rendered, by what was told of the queue at a moment; moved is in how many seconds, in an order that is being tried. */
function Ends({ run, since, moved }: { run: Run; since: number; moved?: number | undefined }) {
  if (!run.ends) return null;
  const at = (seconds: number) => clockTime(new Date(since + seconds * 1000));
  const [low, high] = [at(run.ends.low), at(run.ends.high)];
  return (
    <span data-testid="ends">
      done {at(run.ends.mid)}
      {low !== high && (
        <span className="faint">
          , between {low} and {high}
        </span>
      )}
      {moved !== undefined && Math.abs(moved - run.ends.mid) >= leastMoved && (
        <b data-testid="then">
          {" "}
          → {at(moved)}, {time(Math.abs(moved - run.ends.mid))} {moved > run.ends.mid ? "later" : "sooner"}
        </b>
      )}
    </span>
  );
}

/** Waiting is the queue: ordered by dragging, or by keys. */
function Waiting({ runs, begins, since }: { runs: Run[]; begins: number; since: number }) {
  const { message } = App.useApp();
  const place = useChange(placeRun, [["queue"]]);
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  // What is about to be moved where, for what that would do to be told before it is done.
  const [tried, setTried] = useState<{ id: number; to: number } | null>(null);
  const trying = dragged !== null && over !== null ? { id: dragged, to: over } : tried;
  const then = trying && endsIn(runs, begins, placed(runs, trying.id, trying.to));
  const looking = (id: number, to: number) => ({
    onMouseEnter: () => setTried({ id, to }),
    onFocus: () => setTried({ id, to }),
    onMouseLeave: () => setTried(null),
    onBlur: () => setTried(null),
  });
  const move = (id: number, to: number) => {
    const rest = runs.filter((r) => r.id !== id);
    const at = Math.max(0, Math.min(to, rest.length));
    place.mutate(
      { id, after: at === 0 ? 0 : rest[at - 1]!.id },
      { onError: (e: Error) => void message.error(e.message) },
    );
  };
  return (
    <>
      {runs.map((r, i) => (
        <div
          key={r.id}
          className={
            over === i && dragged !== r.id
              ? `${lists.row} ${styles.row} ${styles.waiting} ${styles.over}`
              : `${lists.row} ${styles.row} ${styles.waiting}`
          }
          draggable
          onDragStart={(e) => {
            e.dataTransfer.effectAllowed = "move";
            setDragged(r.id);
          }}
          onDragOver={(e) => {
            if (dragged === null) return;
            e.preventDefault();
            setOver(i);
          }}
          onDragEnd={() => {
            setDragged(null);
            setOver(null);
          }}
          onDrop={(e) => {
            e.preventDefault();
            if (dragged !== null) move(dragged, i);
            setDragged(null);
            setOver(null);
          }}
        >
          <Thumb run={r} scene={r.scene} view={r.view} />
          <RunLine run={r} flat>
            <Ends run={r} since={since} moved={then?.get(r.id)} />
          </RunLine>
          <span className={styles.order}>
            <HolderOutlined title="Drag to order" />
            <Button
              size="small"
              type="text"
              icon={<VerticalAlignTopOutlined />}
              disabled={i === 0}
              aria-label={`${r.jobName} ${r.number} to the front`}
              {...looking(r.id, 0)}
              onClick={() => move(r.id, 0)}
            />
            <Button
              size="small"
              type="text"
              icon={<ArrowUpOutlined />}
              disabled={i === 0}
              aria-label={`${r.jobName} ${r.number} earlier`}
              {...looking(r.id, i - 1)}
              onClick={() => move(r.id, i - 1)}
            />
            <Button
              size="small"
              type="text"
              icon={<ArrowDownOutlined />}
              disabled={i === runs.length - 1}
              aria-label={`${r.jobName} ${r.number} later`}
              {...looking(r.id, i + 1)}
              onClick={() => move(r.id, i + 1)}
            />
          </span>
        </div>
      ))}
    </>
  );
}

function Ended({ run: r }: { run: Run }) {
  const { message, modal } = App.useApp();
  const remove = useChange(removeRun, staleRuns);
  const ask = () =>
    modal.confirm({
      title: `Remove ${r.jobName} ${r.number} for good?`,
      content: r.deliveries > 0 ? "Its delivered files are removed too and cannot be brought back." : undefined,
      okText: r.deliveries > 0 ? "Remove it with its files" : "Remove it",
      okButtonProps: { danger: true },
      onOk: () =>
        remove.mutate(
          { id: r.id, delivered: r.deliveries > 0 },
          { onError: (e: Error) => void message.error(e.message) },
        ),
    });
  return (
    <div className={`${lists.row} ${lists.linked} ${styles.ended}`}>
      <Link to={`/runs/${r.id}`} className={lists.link}>
        <Thumb run={r} scene={r.scene} view={r.view} />
        <span>
          <b>
            {r.jobName} {r.number}
          </b>
          <span className="faint">
            {r.view} · {surfaceWords[r.surface]} · {r.width} × {r.height} px
            {r.background && " · in the background"}
          </span>
        </span>
        <span>
          <span>{stateWords[r.state]}</span>
          {!["done", "kept"].includes(r.state) && r.share > 0 && (
            <Progress percent={Math.floor(r.share * 100)} size="small" />
          )}
          {r.fault && <span className="faint">{r.fault}</span>}
        </span>
        <span>
          <span>{clock(r.seconds)} rendering</span>
          <span className="faint">{r.noise == null ? "" : `noise ${r.noise.toFixed(1)} %`}</span>
        </span>
      </Link>
      <RowMenu name={`${r.jobName} ${r.number}`} actions={[{ key: "remove", label: "Remove…", run: ask }]} />
    </div>
  );
}
