import { App, Button, Input, Popconfirm } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { useMay, useMe } from "../api/projects";
import { answerRound, withdrawProof, type Answer, type ProofUp, type Round } from "../api/rounds";
import { Stamp } from "./Stamp";
import styles from "./RoundPage.module.css";

type Props = { round: Round; proof: ProofUp; waiting: ProofUp[] };

/** Answering is what people answered to a proof, and for who is asked what they answer. */
export function Answering({ round, proof, waiting }: Props) {
  const me = useMe().data;
  const may = useMay(round.project, "change rounds");
  const asked = round.asked.some((a) => a.id === me?.id);
  return (
    <>
      <h2>Answers</h2>
      {proof.answers.length === 0 && <p className="faint">Nobody has answered yet.</p>}
      {proof.answers.map((a, i) => (
        <div key={i} className={styles.answer}>
          <Stamp verdict={a.verdict} /> <span className="faint">{a.name}</span>
          {a.words && <p>{a.words}</p>}
          <div className="faint">
            {new Date(a.at).toLocaleString()}, on {a.sha256.slice(0, 12)}
          </div>
        </div>
      ))}
      {may && proof.answers.length === 0 && <Withdraw round={round} proof={proof} />}
      {asked && proof.newest && !proof.verdict.startsWith("approved") && (
        <Mine key={proof.id} round={round} proof={proof} waiting={waiting} />
      )}
    </>
  );
}

function Withdraw({ round, proof }: { round: Round; proof: ProofUp }) {
  const { message } = App.useApp();
  const withdraw = useChange(withdrawProof, [["round", round.id], ["board"]]);
  return (
    <div className={styles.buttons}>
      <Popconfirm
        title="Take it down?"
        description="Nobody has answered to it."
        okText="Take it down"
        onConfirm={() => withdraw.mutate(proof.id, { onError: (e) => void message.error(e.message) })}
      >
        <Button size="small">Take down</Button>
      </Popconfirm>
    </div>
  );
}

/** Mine is the answer of who is asked: to the proof that is looked at, or to all that wait. */
function Mine({ round, proof, waiting }: Props) {
  const { message } = App.useApp();
  const [words, setWords] = useState("");
  const answer = useChange(answerRound, [["round", round.id], ["board"]]);
  const said = words.trim() !== "";
  const send = (verdict: Answer, proofs: ProofUp[]) =>
    answer.mutate(
      { id: round.id, verdict, words, proofs: proofs.map(({ id, sha256 }) => ({ id, sha256 })) },
      { onSuccess: () => setWords(""), onError: (e) => void message.error(e.message) },
    );
  const yes: Answer = said ? "approved with remarks" : "approved";
  const how = said ? " with remarks" : "";
  return (
    <div className={styles.mine}>
      <Input.TextArea
        aria-label="Remarks, or what to change"
        placeholder="Remarks, or what to change"
        value={words}
        maxLength={4000}
        autoSize={{ minRows: 2, maxRows: 8 }}
        onChange={(e) => setWords(e.target.value)}
      />
      <Button type="primary" loading={answer.isPending} onClick={() => send(yes, [proof])}>
        Approve {proof.view}
        {how}
      </Button>
      {waiting.length > 1 && (
        <Button loading={answer.isPending} onClick={() => send(yes, waiting)}>
          Approve all {waiting.length} that wait{how}
        </Button>
      )}
      <Button disabled={!said} loading={answer.isPending} onClick={() => send("changes asked", [proof])}>
        Ask for changes
      </Button>
      <span className="faint">What is approved stays so; a later proof can supersede it, and both stay.</span>
    </div>
  );
}
