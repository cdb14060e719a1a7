import { App, Button, Checkbox, Modal, Progress } from "antd";
import { useState } from "react";
import { queryClient } from "../api/http";
import { putUp, type Round } from "../api/rounds";
import { endedRunsOf, useEndedRuns, type Run } from "../api/runs";
import { noise, surfaceWords } from "../shared/words";
import { passToPutUp } from "./passToPutUp";
import styles from "./RoundPage.module.css";

/** PutUpSeveral puts the newest pictures of several views up in a round, one after the other. */
export function PutUpSeveral({ round }: { round: Round }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        Put up pictures
      </Button>
      {open && <Choosing round={round} close={() => setOpen(false)} />}
    </>
  );
}

function Choosing({ round, close }: { round: Round; close: () => void }) {
  const { message } = App.useApp();
  const runs = endedRunsOf(useEndedRuns(round.project).data, round);
  const [picked, setPicked] = useState<number[]>();
  const [done, setDone] = useState<number>(); // how many are up; unset while none is on its way
  // At first what the round is of: in clay or finished, and of the views that it shows already.
  const fits = (r: Run) =>
    (r.surface === "own") === (round.kind !== "clay") &&
    (round.proofs.length === 0 || round.proofs.some((p) => p.view === r.view));
  const chosen = picked ?? runs.filter(fits).map((r) => r.id);
  const going = done !== undefined;
  const start = async () => {
    let up = 0;
    for (const run of runs.filter((r) => chosen.includes(r.id))) {
      setDone(up);
      try {
        await putUp({ round: round.id, run: run.id, passes: [await passToPutUp(run.id, round.kind)] });
        up++;
      } catch (e) {
        void message.error(`${run.view}: ${(e as Error).message}`);
      }
    }
    await Promise.all([["round", round.id], ["board"]].map((queryKey) => queryClient.invalidateQueries({ queryKey })));
    close();
  };
  return (
    <Modal
      open
      title={`Put up pictures in round ${round.number}`}
      okText={chosen.length === 1 ? "Put up 1 picture" : `Put up ${chosen.length} pictures`}
      okButtonProps={{ disabled: chosen.length === 0, loading: going }}
      cancelButtonProps={{ disabled: going }}
      closable={!going}
      mask={{ closable: !going }}
      onCancel={close}
      onOk={() => void start()}
    >
      {runs.length === 0 ? (
        <p>No run has ended that is not up here already.</p>
      ) : (
        <>
          <p className="faint">The newest run of each view. Pictures are frozen as they are, with their tickets.</p>
          <Checkbox.Group
            className={styles.several!}
            disabled={going}
            value={chosen}
            onChange={setPicked}
            options={runs.map((r) => ({ value: r.id, label: words(r) }))}
          />
        </>
      )}
      {going && <Progress percent={Math.round((100 * done) / chosen.length)} aria-label="Pictures put up" />}
    </Modal>
  );
}

const words = (r: Run) =>
  [`${r.view}, ${surfaceWords[r.surface]}`, `${r.width} × ${r.height} px`, noise(r.noise ?? null), r.jobName].join(
    " · ",
  );
