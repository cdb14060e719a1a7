import { App, Button, Segmented } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useChange } from "../api/http";
import { useProject } from "../api/projects";
import { isGoing, useLive } from "../api/live";
import { Where } from "../shared/Where";
import { Thumb } from "../shared/proof/Thumb";
import { NameDialog } from "../shared/NameDialog";
import { RowMenu } from "../shared/RowMenu";
import { noise, percent, stateWords, surfaceWords } from "../shared/words";
import { changeJob, copyJob, removeJob, useJobs, type JobLine } from "../api/jobs";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./JobsPage.module.css";

const presetWords: Record<string, string> = {
  scout: "Scout",
  check: "Check",
  proof: "Proof",
  press: "Press",
  own: "own quality",
};

/** nextOf says what is to be done next with a job. */
function nextOf(j: JobLine): string {
  if (!j.last) return "not run yet";
  switch (j.last.state) {
    case "stopped":
    case "failed":
      return "wants a decision: resume, keep or cancel";
    case "done":
    case "kept":
      return j.delivered > 0 ? "its proof waits to be judged" : "a first look; not run in earnest yet";
  }
  return "";
}

export function JobsPage() {
  const [away, setAway] = useState(false);
  const jobs = useJobs(useProject()?.id, away);
  const rows = jobs.data?.pages.flatMap((p) => p.jobs) ?? [];
  return (
    <div className={lists.page}>
      <Where title="Jobs">
        <b>Jobs</b>
      </Where>
      <header>
        <h1>Jobs</h1>
        <Segmented
          size="small"
          value={away ? "away" : "here"}
          aria-label="Which jobs"
          onChange={(v) => setAway(v === "away")}
          options={[
            { value: "here", label: "At work" },
            { value: "away", label: "Put away" },
          ]}
        />
      </header>
      {jobs.error && (
        <div className={bits.notice} role="alert">
          {jobs.error.message}
        </div>
      )}
      {jobs.data && rows.length === 0 && (
        <p className="faint">
          {away ? (
            "Nothing is put away."
          ) : (
            <>
              No job yet. Open a <Link to="/scenes">scene</Link> and make one for it: it holds a ticket that says what
              is rendered and how.
            </>
          )}
        </p>
      )}
      {rows.map((j) => (
        <JobRow key={j.id} job={j} />
      ))}
      {jobs.hasNextPage && (
        <Button className={lists.more} loading={jobs.isFetchingNextPage} onClick={() => void jobs.fetchNextPage()}>
          Show more
        </Button>
      )}
    </div>
  );
}

function JobRow({ job: j }: { job: JobLine }) {
  const live = useLive((s) => (j.last ? s.runs[j.last.id] : undefined));
  const { message, modal } = App.useApp();
  const go = useNavigate();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const change = useChange(changeJob, [["jobs"], ["job", j.id]]);
  const copy = useChange(copyJob, [["jobs"]]);
  const remove = useChange(removeJob, [["jobs"], ["runs"], ["queue"], ["scenes"]]);
  const [naming, setNaming] = useState<"rename" | "copy" | null>(null);
  const state = live?.state ?? j.last?.state;
  const ask = () =>
    modal.confirm({
      title: `Remove ${j.name} for good?`,
      content:
        j.delivered > 0
          ? `${j.delivered} of its ${j.runs} runs have delivered files. They are removed too and cannot be brought back. Put it away instead to keep them.`
          : `Its ${j.runs} runs are removed with it.`,
      okText: j.delivered > 0 ? "Remove it with its deliveries" : "Remove it",
      okButtonProps: { danger: true },
      onOk: () => remove.mutate({ id: j.id, delivered: j.delivered > 0 }, fail),
    });
  return (
    <div className={`${lists.row} ${lists.linked} ${styles.row}`}>
      <Link to={`/jobs/${j.id}`} className={lists.link}>
        <Thumb run={j.last} scene={j.scene} view={j.view} />
        <span>
          <b>{j.name}</b>
          <span className="faint">{j.sceneName}</span>
        </span>
        <span>
          <span>
            {j.view} · {surfaceWords[j.surface]}
          </span>
          <span className="faint">
            {j.width} × {j.height} px · {presetWords[j.preset] ?? j.preset}
            {j.target > 0 && ` · to ${j.target} %`}
          </span>
        </span>
        <span>
          <span>
            {j.last ? `Run ${j.last.number}, ${stateWords[state!]}` : "not run yet"}
            {live && isGoing(live.state) && ` ${percent(live.share)}`}
          </span>
          <span className="faint">
            {[j.last && j.last.samples > 0 && j.last.noise != null && noise(j.last.noise), j.last && nextOf(j)]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </span>
      </Link>
      <RowMenu
        name={j.name}
        actions={[
          { key: "rename", label: "Rename", run: () => setNaming("rename") },
          { key: "copy", label: "Copy", run: () => setNaming("copy") },
          {
            key: "away",
            label: j.putAway ? "Take out again" : "Put away",
            run: () => change.mutate({ id: j.id, putAway: !j.putAway }, fail),
          },
          { key: "remove", label: "Remove…", run: ask },
        ]}
      />
      {naming && (
        <NameDialog
          title={naming === "rename" ? `Rename ${j.name}` : `Copy ${j.name}`}
          ok={naming === "rename" ? "Rename" : "Copy"}
          was={naming === "rename" ? j.name : `${j.name}, copy`}
          cancel={() => setNaming(null)}
          done={(name) => {
            setNaming(null);
            if (naming === "rename") change.mutate({ id: j.id, name }, fail);
            else copy.mutate({ id: j.id, name }, { ...fail, onSuccess: (c) => void go(`/jobs/${c.id}`) });
          }}
        />
      )}
    </div>
  );
}
