import type { Schemas } from "../api/http";
import { bestOf, clayOf, useRun, type Run } from "../api/runs";
import { PutUp } from "../shared/proof/PutUp";
import { RunLine } from "../shared/proof/RunLine";
import { RunPicture } from "../shared/proof/RunPicture";
import bits from "../shared/bits.module.css";

/** Chosen is the picture of a run; before it has any sample, that of the last that has. */
export function Chosen(p: {
  run: Run;
  runs: Run[];
  outlook: Schemas["Outlook"] | undefined;
  /** Of a run that is finished and in clay, which of the two. */
  clay: boolean;
  swap: () => void;
}) {
  const { run, runs, outlook } = p;
  const detail = useRun(run.id);
  const before = run.samples > 0 ? undefined : runs.find((r) => r.id < run.id && r.samples > 0);
  const last = useRun(before?.id);
  if (detail.error) return <div className={bits.empty}>{detail.error.message}</div>;
  if (!detail.data) return <div className={bits.empty}>Opening the picture</div>;
  const stands = before && last.data && detail.data.run.samples <= 0;
  const shown = detail.data.passes.find((q) => q.key === (p.clay ? clayOf(bestOf(detail.data)) : bestOf(detail.data)));
  const none = run.finished ? `; run ${run.number} has no samples` : `, until run ${run.number} has its first samples`;
  return (
    <>
      <RunPicture
        key={stands ? before.id : run.id}
        run={stands ? last.data! : detail.data}
        clay={p.clay}
        swap={p.swap}
        crops={outlook && outlook.width * run.height === outlook.height * run.width ? outlook : undefined}
        note={stands ? `Run ${before.number}${none}` : undefined}
      />
      <RunLine run={{ ...detail.data.run, state: run.state }} slug={detail.data.slug}>
        {shown && <PutUp run={detail.data} pass={shown} />}
      </RunLine>
    </>
  );
}
