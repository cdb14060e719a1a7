import { DownOutlined } from "@ant-design/icons";
import { App, Button, Dropdown, Input, Popconfirm } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../api/http";
import { useMay } from "../api/projects";
import { beginRound, changeRound, removeRound, type Round } from "../api/rounds";
import { Links } from "./Links";
import { PutUpSeveral } from "./PutUpSeveral";
import { RoundForm } from "./RoundForm";
import { Stamp } from "./Stamp";
import { dayWords, sinceWords } from "./words";
import styles from "./RoundPage.module.css";

/** RoundFacts are a round's terms, who has yet to answer, and what it was asked for. */
export function RoundFacts({ round: r }: { round: Round }) {
  const may = useMay(r.project, "change rounds");
  return (
    <>
      <h2>Round {r.number}</h2>
      <div className={styles.facts}>
        <Stamp verdict={r.verdict} />
        {r.due && (
          <p className={r.late ? styles.late : "faint"}>
            {r.late ? "Late: was due" : "Due"} {dayWords(r.due)}
          </p>
        )}
        {r.note && <p className={styles.note}>{r.note}</p>}
        {r.asked.length === 0 && <p className="faint">Nobody is asked yet, so nothing can be approved.</p>}
        {r.asked.map((a) => (
          <p key={a.id}>
            {a.name}{" "}
            <span className="faint">
              {a.waits > 0 && a.since
                ? `has ${a.waits} to answer, ${sinceWords(a.since)}`
                : r.proofs.length > 0
                  ? "has answered"
                  : "will be asked"}
            </span>
          </p>
        ))}
        {r.anyway && (
          <p className="faint">
            Begun before round {r.number - 1} was approved: {r.anyway}
          </p>
        )}
      </div>
      {may && <Doing round={r} />}
      {r.proofs.length > 0 && <Sheets round={r} />}
      {may && <Links round={r} />}
      {r.carried.length > 0 && (
        <>
          <h2>Asked for before</h2>
          {r.carried.map((c) => (
            <div key={`${c.round}${c.view}${c.name}`} className={styles.answer}>
              {c.view}{" "}
              <span className="faint">
                {c.name}, round {c.round}
              </span>
              <p>{c.words}</p>
            </div>
          ))}
        </>
      )}
    </>
  );
}

/** Sheets are the round laid out, to be saved. */
function Sheets({ round: r }: { round: Round }) {
  const file = (name: string) => `/api/rounds/${r.id}/${name}`;
  return (
    <Dropdown
      trigger={["click"]}
      menu={{
        items: [
          { key: "sheet.pdf?paper=a4", label: "Round sheet to sign, A4" },
          { key: "sheet.pdf?paper=letter", label: "Round sheet to sign, letter" },
          { key: "contact.png", label: "Contact sheet, PNG" },
          { key: "round.json", label: "Everything, JSON" },
        ],
        onClick: ({ key }) => location.assign(file(key)),
      }}
    >
      <Button size="small" style={{ alignSelf: "start", flexShrink: 0, marginTop: 8 }}>
        Export round <DownOutlined />
      </Button>
    </Dropdown>
  );
}

/** Doing is what lead and TD do with a round. */
function Doing({ round: r }: { round: Round }) {
  const { message } = App.useApp();
  const go = useNavigate();
  const stale = [["round", r.id], ["board"]];
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const change = useChange(changeRound, stale);
  const remove = useChange(removeRound, [["board"]]);
  const begin = useChange(beginRound, stale);
  const [changing, setChanging] = useState(false);
  const [why, setWhy] = useState("");
  const settled = r.verdict.startsWith("approved");
  return (
    <>
      <div className={styles.buttons}>
        {!settled && !r.blocked && <PutUpSeveral round={r} />}
        {!settled && (
          <Button size="small" onClick={() => setChanging(true)}>
            Change round
          </Button>
        )}
        {r.proofs.length === 0 && (
          <Popconfirm
            title={`Remove round ${r.number}?`}
            okText="Remove it"
            onConfirm={() => remove.mutate(r.id, { ...fail, onSuccess: () => void go("/board") })}
          >
            <Button size="small">Remove</Button>
          </Popconfirm>
        )}
      </div>
      {r.blocked && (
        <div className={styles.mine}>
          <Input.TextArea
            aria-label="Why it begins before the round before is approved"
            placeholder={`Why it begins before round ${r.number - 1} is approved`}
            value={why}
            maxLength={4000}
            autoSize
            onChange={(e) => setWhy(e.target.value)}
          />
          <Button
            size="small"
            disabled={why.trim() === ""}
            loading={begin.isPending}
            onClick={() => begin.mutate({ id: r.id, why }, fail)}
          >
            Begin anyway
          </Button>
        </div>
      )}
      {changing && (
        <RoundForm
          project={r.project}
          title={`Round ${r.number}`}
          ok="Change it"
          first={r.number === 1}
          busy={change.isPending}
          was={{
            kind: r.kind,
            title: r.title,
            due: r.due,
            needs: r.needs,
            note: r.note,
            asked: r.asked.map((a) => a.id),
          }}
          cancel={() => setChanging(false)}
          done={(terms) =>
            change.mutate({ id: r.id, version: r.version, terms }, { ...fail, onSuccess: () => setChanging(false) })
          }
        />
      )}
    </>
  );
}
