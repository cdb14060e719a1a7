import { App, Tabs } from "antd";
import { useMemo, useState } from "react";
import { useParams, useSearchParams, useLocation } from "react-router";
import { useChange } from "../api/http";
import { startRun, useForecast, useOutlook } from "../api/jobs";
import { useMay, useOfProject } from "../api/projects";
import { Only } from "../shared/Only";
import { staleRuns, useRuns, type Run } from "../api/runs";
import { useScene, type SceneBody } from "../api/scenes";
import { ConflictDialog } from "../shared/ConflictDialog";
import { EditingContext } from "../shared/Field";
import { UndoButtons } from "../shared/UndoButtons";
import { Where } from "../shared/Where";
import { savedWords } from "../shared/words";
import { Chosen } from "./Chosen";
import { Docket } from "./Docket";
import { LiveView } from "./LiveView";
import { ProofStrip } from "./ProofStrip";
import { TicketFoot } from "./TicketFoot";
import { Wanted } from "./Wanted";
import { useTicket } from "./useTicket";
import bits from "../shared/bits.module.css";
import styles from "./JobPage.module.css";

export function JobPage() {
  const id = Number(useParams()["id"]);
  return <Job key={id} id={id} />;
}

function Job({ id }: { id: number }) {
  const t = useTicket(id);
  const scene = useScene(t.job.data?.scene);
  const outlook = useOutlook(id, t.version);
  const runnable = outlook.data?.faults.length === 0 && outlook.data.fits;
  const forecast = useForecast(id, t.version, scene.data?.setup.version ?? 0, runnable);
  const pages = useRuns(id);
  const runs = useMemo(() => pages.data?.pages.flatMap((p) => p.runs) ?? [], [pages.data]);
  const [query, setQuery] = useSearchParams();
  const [lit, setLit] = useState<string[]>([]); // keys of parts that were asked about
  const { message } = App.useApp();
  const start = useChange(startRun, [...staleRuns, ["outlook", id]]);
  const inClay = query.get("in") === "clay"; // of a run that is finished, too
  const chosen = runs.find((r) => String(r.id) === query.get("run")) ?? runs[0];
  const showing = query.get("show") === "frame" || !chosen ? "frame" : "picture";
  const editing = useMemo(
    () => (t.ticket ? { ticket: t.ticket, faults: t.faults, set: t.set } : null),
    [t.ticket, t.faults, t.set],
  );

  // What runs is what is seen: the save is waited for, and its version named.
  const [starting, setStarting] = useState(false);
  const at = useLocation().pathname;
  const may = useMay(t.job.data?.project, "change jobs");
  useOfProject(t.job.data?.project);
  // Turns to a run of this job, unless the page was left before the answer came.
  const turn = (q: URLSearchParams) => window.location.pathname === at && setQuery(q);
  const run = async () => {
    setStarting(true);
    const version = await t.editor.flush();
    if (version === null) {
      setStarting(false);
      return; // the foot of the ticket says why
    }
    turn(new URLSearchParams()); // its picture is shown
    start.mutate(
      { id, version },
      {
        onSettled: () => setStarting(false),
        onError: (e) => void message.error(e.message),
        onSuccess: (r) => {
          // What somebody has turned to before the answer came stays in front.
          const now = new URLSearchParams(window.location.search);
          now.set("run", String(r.id));
          turn(now);
        },
      },
    );
  };

  if (t.job.error) return <div className={bits.empty}>{t.job.error.message}</div>;
  if (!editing || !scene.data || !t.job.data) return <div className={bits.empty}>Opening the job</div>;
  const { ticket } = editing;
  const turnTo = (show: string) => setQuery(chosen ? { run: String(chosen.id), show } : { show });
  const choose = (r: Run, clay: boolean) =>
    setQuery(clay && r.surface === "both" ? { run: String(r.id), in: "clay" } : { run: String(r.id) });
  const light = (keys: string[]) => {
    setLit(keys);
    turnTo("frame");
  };

  return (
    <EditingContext.Provider value={editing}>
      <div className={styles.page}>
        <Where title={t.job.data.name}>
          <span className="faint">Jobs / {scene.data.scene.name} /</span>
          <h1>{t.job.data.name}</h1>
          <span className={bits.stamp} data-testid="saved">
            {may ? savedWords[t.saved] : "view only"}
          </span>
          <UndoButtons depth={t.depth} undo={t.editor.undo} redo={t.editor.redo} />
        </Where>
        <section className={styles.ticket} aria-label="Ticket">
          <Only project={t.job.data.project} act="change jobs">
            <Wanted job={id} project={t.job.data.project} version={t.version} />
            <Docket
              scene={scene.data}
              outlook={outlook.data}
              forecast={forecast.data}
              light={light}
              clayRun={chosen && chosen.surface !== "own" && chosen.samples > 0 ? chosen : undefined}
            />
            <TicketFoot
              job={id}
              t={t}
              scene={scene.data}
              outlook={outlook.data}
              forecast={forecast}
              runs={runs}
              view={viewNamed(scene.data, ticket.view.name)}
              light={light}
              run={() => void run()}
              starting={starting}
            />
          </Only>
        </section>
        <section className={styles.middle} aria-label="Picture">
          <Tabs
            className={styles.tabs}
            size="small"
            activeKey={showing}
            onChange={turnTo}
            destroyOnHidden
            items={[
              {
                key: "picture",
                label: "Picture",
                disabled: !chosen,
                children: chosen && (
                  <Chosen
                    run={chosen}
                    runs={runs}
                    outlook={outlook.data}
                    clay={inClay}
                    swap={() => choose(chosen, !inClay)}
                  />
                ),
              },
              {
                key: "frame",
                label: "Live",
                children: (
                  <LiveView
                    scene={scene.data}
                    ticket={ticket}
                    set={t.set}
                    outlook={outlook.data}
                    runs={runs}
                    lit={lit}
                    onLit={setLit}
                  />
                ),
              },
            ]}
          />
        </section>
        <ProofStrip
          runs={runs}
          scene={t.job.data.scene}
          shown={chosen && showing === "picture" ? { run: chosen.id, clay: inClay } : null}
          choose={choose}
          earlier={pages.hasNextPage ? () => void pages.fetchNextPage() : null}
          loaded={pages.data !== undefined}
        />
        <ConflictDialog what="ticket" editor={t.editor} conflict={t.conflict} />
      </div>
    </EditingContext.Provider>
  );
}

/** viewNamed is the name of the view that a ticket renders: without one that is there, of the scene's first. */
const viewNamed = (scene: SceneBody, name: string) =>
  (scene.views.find((v) => v.name === name) ?? scene.views[0])?.name ?? "";
