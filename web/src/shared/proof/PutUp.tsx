import { App, Button, Checkbox, Modal, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../../api/http";
import { useMay } from "../../api/projects";
import { putUp, useBoard, type Round } from "../../api/rounds";
import { bestOf, type RunDetail } from "../../api/runs";

/** likely is the open round that a run belongs into: that which shows its view already, or is of its kind. */
function likely(rounds: Round[], { run }: RunDetail): Round | undefined {
  const open = rounds.filter((r) => !r.blocked);
  return (
    open.findLast((r) => r.proofs.some((p) => p.view === run.view)) ??
    open.find((r) => (r.kind === "clay") === (run.surface === "clay")) ??
    open[0]
  );
}

type Props = {
  run: RunDetail;
  pass: RunDetail["passes"][number];
  /** It stands in a panel, as wide as that. */
  block?: boolean;
};

/** PutUp puts a proof up in a round, to be approved. */
export function PutUp({ run, pass, block = false }: Props) {
  const project = run.run.project;
  const may = useMay(project, "change rounds");
  const board = useBoard(project);
  const { message } = App.useApp();
  const go = useNavigate();
  const send = useChange(putUp, [["board"], ["round"]]);
  const [open, setOpen] = useState(false);
  const rounds = board.data?.rounds.filter((r) => !r.verdict.startsWith("approved")) ?? [];
  const [round, setRound] = useState<number>();
  const [passes, setPasses] = useState<string[]>([]);
  const ended = run.run.state === "done" || run.run.state === "kept";
  if (!ended || !may) return null;
  const chosen = round ?? likely(rounds, run)?.id;
  const start = () => {
    // What is looked at is judged; of a picture that is finished and in clay, both are seen.
    setPasses([...new Set([pass.data ? bestOf(run) : pass.key])]);
    setOpen(true);
  };
  return (
    <>
      <Button block={block} size={block ? "middle" : "small"} onClick={start}>
        Put up for approval
      </Button>
      <Modal
        open={open}
        title="Put up for approval"
        okText="Put up"
        okButtonProps={{ disabled: chosen === undefined || passes.length === 0, loading: send.isPending }}
        onCancel={() => setOpen(false)}
        onOk={() =>
          send.mutate(
            { round: chosen!, run: run.run.id, passes },
            {
              onSuccess: (r) => void go(`/rounds/${r.id}?proof=${r.proofs.at(-1)!.id}`),
              onError: (e) => void message.error(e.message),
            },
          )
        }
      >
        {rounds.length === 0 ? (
          <p>No round is open. Create one on the board first.</p>
        ) : (
          <>
            <p className="faint">
              The pictures are frozen as they are, with their ticket. They stay whatever becomes of run, job and scene.
            </p>
            <Select
              aria-label="Round"
              style={{ width: "100%" }}
              {...(chosen === undefined ? {} : { value: chosen })}
              onChange={setRound}
              options={rounds.map((r) => ({
                value: r.id,
                disabled: r.blocked,
                label: `${r.number} ${r.title}${r.blocked ? `, needs round ${r.number - 1}` : ""}`,
              }))}
            />
            <p>Its pictures. The first is the one that is judged:</p>
            <Checkbox.Group
              style={{ display: "grid", maxHeight: 280, overflow: "auto" }}
              value={passes}
              onChange={setPasses}
              options={run.passes.map((p) => ({ value: p.key, label: p.title }))}
            />
          </>
        )}
      </Modal>
    </>
  );
}
