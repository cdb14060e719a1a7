import { App, Button, Input, Select, Switch } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { makeRemark, sayInRemark, useProofParts, useSpot, useTopics, type ProofUp, type Remark } from "../api/rounds";
import { anchor, type Mark } from "../shared/remarks/marks";
import type { Filter, Remarking } from "./useRemarking";
import { capital } from "../shared/words";
import styles from "./Remarks.module.css";

type Props = { proof: ProofUp; remarking: Remarking; may: boolean };

/** Remarks lists what was said about the scene of a proof, in its round and in those before. */
export function Remarks({ proof, remarking: m, may }: Props) {
  return (
    <>
      {m.draft ? (
        <NewRemark key={JSON.stringify(m.draft)} proof={proof} mark={m.draft} remarking={m} />
      ) : (
        may && (
          <p className={`faint ${styles.hint}`}>
            {m.tool ? "Click or draw on the picture." : "Press Remark, then click the place in the picture."}
          </p>
        )
      )}
      <Filters remarking={m} />
      {m.listed.length === 0 && (
        <p className="faint">{m.all.length === 0 ? "No remarks yet." : "No remark matches the filters."}</p>
      )}
      {m.listed.map((r) => (
        <One key={r.id} remark={r} proof={proof} chosen={r.id === m.chosen} choose={m.choose} />
      ))}
    </>
  );
}

function Filters({ remarking: { all, filter, setFilter } }: { remarking: Remarking }) {
  if (all.length === 0) return null;
  const put = (c: Partial<Filter>) => setFilter({ ...filter, ...c });
  const parts = [...new Set(all.map((r) => r.part).filter(Boolean))].sort();
  const rounds = [...new Set(all.map((r) => r.round))];
  return (
    <div className={styles.filters}>
      <Select
        size="small"
        aria-label="State"
        value={filter.state}
        onChange={(state) => put({ state })}
        options={[
          { value: "open" as const, label: "Open" },
          { value: "all" as const, label: "All" },
        ]}
      />
      <Select
        size="small"
        aria-label="Part"
        value={filter.part}
        onChange={(part: string) => put({ part })}
        options={[{ value: "", label: "All parts" }, ...parts.map((value) => ({ value, label: value }))]}
      />
      {rounds.length > 1 && (
        <Select
          size="small"
          aria-label="Of round"
          value={filter.round}
          onChange={(round: number) => put({ round })}
          options={[{ value: 0, label: "All rounds" }, ...rounds.map((value) => ({ value, label: `Round ${value}` }))]}
        />
      )}
      <label>
        <Switch size="small" checked={filter.mine} onChange={(mine) => put({ mine })} /> Mine
      </label>
    </div>
  );
}

const where: Record<Remark["seen"], string> = {
  visible: "",
  hidden: "hidden from here",
  outside: "outside of this picture",
  gone: "the part is gone",
  unknown: "not on a part of this picture",
};

function One({
  remark: r,
  proof,
  chosen,
  choose,
}: {
  remark: Remark;
  proof: ProofUp;
  chosen: boolean;
  choose: (id: number | null) => void;
}) {
  const first = r.lines[0]!;
  const elsewhere = [
    r.proof !== proof.id && `made in round ${r.round}${r.view === proof.view ? "" : `, ${r.view}`}`,
    where[r.seen],
  ].filter(Boolean);
  return (
    <article className={`${styles.remark} ${chosen ? styles.chosen : ""}`} aria-label={`Remark ${r.number}`}>
      <button className={styles.head} aria-expanded={chosen} onClick={() => choose(chosen ? null : r.id)}>
        <b className={styles.number} data-state={r.state}>
          {r.number}
        </b>
        <span>{r.topic ? capital(r.topic) : r.part || r.view}</span>
        {r.state !== "open" && <span className="faint">{r.state}</span>}
        {elsewhere.length > 0 && <span className={`faint ${styles.elsewhere}`}>{elsewhere.join(", ")}</span>}
      </button>
      <p>{first.words}</p>
      <div className="faint">
        {first.name}, {new Date(first.at).toLocaleString()}
      </div>
      {chosen ? (
        <Thread remark={r} proof={proof} />
      ) : (
        r.lines.length > 1 && <div className="faint">{answers(r.lines.length - 1)}</div>
      )}
    </article>
  );
}

const answers = (n: number) => (n === 1 ? "1 answer" : `${n} answers`);

/** Thread is what was answered to a remark, and what can be said now. */
function Thread({ remark: r, proof }: { remark: Remark; proof: ProofUp }) {
  const { message } = App.useApp();
  const [words, setWords] = useState("");
  const say = useChange(sayInRemark, [["remarks"], ["round"], ["board"]]);
  const send = (state: "" | Remark["state"]) =>
    say.mutate(
      { remark: r.id, words, state, in: proof.id },
      { onSuccess: () => setWords(""), onError: (e) => void message.error(e.message) },
    );
  const said = words.trim() !== "";
  return (
    <div className={styles.thread}>
      {r.lines.slice(1).map((l, i) => (
        <div key={i}>
          {l.state && <b>{l.state === "open" ? "Open again" : l.state === "done" ? "Done" : "Won’t do"}</b>}
          {l.words && <p>{l.words}</p>}
          <div className="faint">
            {l.name}, {new Date(l.at).toLocaleString()}
          </div>
        </div>
      ))}
      <Input.TextArea
        aria-label={`Answer to remark ${r.number}`}
        placeholder="Answer; @Name tells somebody"
        value={words}
        maxLength={4000}
        autoSize={{ minRows: 1, maxRows: 8 }}
        onChange={(e) => setWords(e.target.value)}
      />
      <div className={styles.buttons}>
        <Button size="small" disabled={!said} loading={say.isPending} onClick={() => send("")}>
          Answer
        </Button>
        {r.settles && r.state === "open" && (
          <>
            <Button size="small" loading={say.isPending} onClick={() => send("done")}>
              Done
            </Button>
            <Button
              size="small"
              disabled={!said}
              title="Say why first"
              loading={say.isPending}
              onClick={() => send("won't do")}
            >
              Won’t do
            </Button>
          </>
        )}
        {r.settles && r.state !== "open" && (
          <Button size="small" loading={say.isPending} onClick={() => send("open")}>
            Open again
          </Button>
        )}
      </div>
    </div>
  );
}

/** NewRemark asks for the words of a remark that was drawn, and what it is about. */
function NewRemark({ proof, mark, remarking: m }: { proof: ProofUp; mark: Mark; remarking: Remarking }) {
  const { message } = App.useApp();
  const [words, setWords] = useState("");
  const [part, setPart] = useState<string>();
  const parts = useSpot(proof.id, ...anchor(mark)).data?.parts ?? [];
  const shown = useProofParts(proof.id).data ?? [];
  const [topic, setTopic] = useState("");
  const topics = useTopics(proof.id).data ?? [];
  const make = useChange(makeRemark, [["remarks"], ["round"], ["board"]]);
  const about = part ?? parts[0] ?? "";
  const send = () =>
    make.mutate(
      { proof: proof.id, mark, words, part: about, topic },
      { onSuccess: m.stop, onError: (e) => void message.error(e.message) },
    );
  // A part that is not at the mark takes it to where it is seen.
  const choose = (name: string) => {
    const at = shown.find((s) => s.part === name);
    if (parts.includes(name) || !at) setPart(name);
    else m.draw({ kind: "spot", points: [[at.x, at.y]] });
  };
  const others = shown.map((s) => s.part).filter((name) => !parts.includes(name));
  return (
    <section className={`${styles.fresh} ${styles.hint}`} aria-label="New remark">
      <Select
        size="small"
        showSearch
        aria-label="Part it is about"
        placeholder="Not on a part"
        {...(about ? { value: about } : {})}
        onChange={choose}
        options={[
          { label: "Here", options: parts.map((value) => ({ value, label: value })) },
          { label: "Elsewhere in the picture", options: others.map((value) => ({ value, label: value })) },
        ]}
      />
      {topics.length > 0 && (
        <Select
          size="small"
          showSearch={{ optionFilterProp: "label" }}
          aria-label="Setting it is about"
          value={topic}
          onChange={setTopic}
          options={[
            { value: "", label: "No setting in particular" },
            ...topics.map((value) => ({ value, label: capital(value) })),
          ]}
        />
      )}
      <Input.TextArea
        autoFocus
        aria-label="Words of the remark"
        placeholder="What should be different here; @Name tells somebody"
        value={words}
        maxLength={4000}
        autoSize={{ minRows: 2, maxRows: 8 }}
        onChange={(e) => setWords(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") m.stop();
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && words.trim()) send();
        }}
      />
      <div className={styles.buttons}>
        <Button size="small" type="primary" disabled={words.trim() === ""} loading={make.isPending} onClick={send}>
          Add remark
        </Button>
        <Button size="small" onClick={m.stop}>
          Discard
        </Button>
      </div>
    </section>
  );
}
