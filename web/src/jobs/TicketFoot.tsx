import { App, Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useChange } from "../api/http";
import type { UseQueryResult } from "@tanstack/react-query";
import { useJobPreflight, type Forecast, type Outlook } from "../api/jobs";
import { deliverAgain, staleRuns, type Run } from "../api/runs";
import type { SceneBody } from "../api/scenes";
import { Fold } from "../shared/Fold";
import { bytes, count } from "../shared/words";
import { BlockedLight } from "./BlockedLight";
import { Done, ForecastLine } from "./ForecastLine";
import type { TicketEditor } from "./useTicket";
import { VariantJobs } from "./VariantJobs";
import bits from "../shared/bits.module.css";
import { disabledIf } from "../shared/disabledIf";
import styles from "./JobPage.module.css";

type Props = {
  job: number;
  t: TicketEditor;
  scene: SceneBody;
  outlook: Outlook | undefined;
  forecast: UseQueryResult<Forecast>;
  runs: Run[];
  /** The name of the view that is rendered. */
  view: string;
  light: (parts: string[]) => void;
  run: () => void;
  starting: boolean;
};

/** How a run shows the surfaces, in the sentence of its button. */
const ranAs: Record<string, string> = { own: "", clay: " in clay", both: " finished and in clay" };

/** TicketFoot says what a run of the ticket would be, and starts it. */
export function TicketFoot({ job, t, scene, outlook: o, forecast, runs, view, light, run, starting }: Props) {
  const faults = t.faults.length > 0 ? t.faults : (o?.faults ?? []);
  return (
    <div className={styles.foot}>
      {faults.length > 0 ? (
        <div className={bits.notice} role="alert">
          {faults.slice(0, 3).map((f) => (
            <div key={f.path + f.message}>{f.message}</div>
          ))}
        </div>
      ) : (
        o && (
          <div>
            {o.changed.length > 0 && (
              <div className={styles.changed}>
                <Fold
                  line={`Since run ${runs[0]?.number}, ${count(o.changed.length, "change")}: ${o.changed.join("; ")}`}
                >
                  {o.changed.map((c) => (
                    <div key={c}>{c}</div>
                  ))}
                </Fold>
              </div>
            )}
            {o.idle.length > 0 && <div>{o.idle[0]!.message}</div>}
            <BlockedLight job={job} version={t.version} setup={scene.setup.version} light={light} />
            <PreflightLine job={job} version={t.version} scene={scene} />
            <Fold
              line={`${count(o.files.length, "file")} · ${bytes(o.memory)} of memory${o.fits ? "" : ", more than is free: make it smaller or render a region"}`}
            >
              {o.files.map((f) => (
                <div key={f.path} className="mono">
                  {f.path}
                </div>
              ))}
            </Fold>
            <ForecastLine forecast={forecast} target={t.ticket!.quality.noise} />
            <MoreRuns job={job} t={t} scene={scene} outlook={o} runs={runs} />
          </div>
        )
      )}
      <Button
        className={styles.go}
        type="primary"
        block
        size="large"
        loading={starting}
        {...disabledIf(faults.length > 0 || (o && !o.fits) || t.saved === "changed elsewhere")}
        onClick={run}
        data-testid="run"
      >
        <span>
          Run {view}
          {ranAs[t.ticket!.surface.mode]} at <span className={styles.size}>{o ? `${o.width} × ${o.height}` : "…"}</span>
          {o?.region && ", a region"}
          <Done forecast={forecast} />
        </span>
      </Button>
    </div>
  );
}

/** MoreRuns are jobs for the variants, and files of what is already rendered. */
function MoreRuns({
  job,
  t,
  scene,
  outlook: o,
  runs,
}: Pick<Props, "job" | "t" | "scene" | "runs"> & { outlook: Outlook }) {
  const { message } = App.useApp();
  const [making, setMaking] = useState(false);
  const again = useChange(deliverAgain, [...staleRuns, ["outlook", job]]);
  const deliver = async () => {
    const version = await t.editor.flush();
    if (version === null) return; // the foot of the ticket says why
    again.mutate(
      { id: o.served, version },
      {
        onError: (e) => void message.error(e.message),
        onSuccess: () => void message.success("Delivered again. The earlier files are kept."),
      },
    );
  };
  if (scene.variants.length === 0 && o.served === 0) return null;
  return (
    <div className={styles.more}>
      {scene.variants.length > 0 && (
        <Button size="small" block onClick={async () => (await t.editor.flush()) !== null && setMaking(true)}>
          A job for each variant
        </Button>
      )}
      {o.served > 0 && (
        <Button size="small" block loading={again.isPending} onClick={() => void deliver()}>
          Deliver run {runs.find((r) => r.id === o.served)?.number} anew, without rendering
        </Button>
      )}
      {making && <VariantJobs job={job} variants={scene.variants} close={() => setMaking(false)} />}
    </div>
  );
}

/** PreflightLine tells before a run what was found of the scene as this ticket would render it. */
function PreflightLine({ job, version, scene }: { job: number; version: number; scene: SceneBody }) {
  const report = useJobPreflight(job, version, scene.setup.version);
  const found = report.data?.findings.filter((f) => !f.aside) ?? [];
  if (report.isFetching && !report.data) return <div className="faint">Preflight: checking</div>;
  if (found.length === 0) return null;
  return (
    <Fold testid="found" line={`Preflight, ${count(found.length, "finding")}: ${found[0]!.says}`}>
      {found.map((f, i) => (
        <div key={i}>{f.says}</div>
      ))}
      <Link to={`/scenes/${scene.scene.id}`}>Look at them in the scene</Link>
    </Fold>
  );
}
