import { useState } from "react";
import { anchor, type Mark } from "../shared/remarks/marks";
import { makeRemark, sayInRemark, type Picture, type Remark } from "./api";
import { useWords, type Key } from "./messages";
import { useSend } from "./useSend";

type Props = {
  picture: Picture;
  all: Remark[];
  put: (all: Remark[]) => void;
  chosen: number | undefined;
  choose: (id: number | undefined) => void;
  draft: Mark | null;
  drop: () => void;
};

const states: Record<Remark["state"], Key> = { open: "open", done: "stateDone", "won't do": "stateWontDo" };

/** Remarks lists what was said of places in the picture. */
export function Remarks({ picture, all, put, chosen, choose, draft, drop }: Props) {
  const t = useWords();
  return (
    <section aria-label={t("remarks")}>
      <h2>{t("remarks")}</h2>
      {draft && <NewRemark key={anchor(draft).join()} picture={picture} mark={draft} put={put} drop={drop} />}
      {all.length === 0 && !draft && <p className="faint">{t("noRemarks")}</p>}
      {all.map((r) => (
        <article key={r.id} className={r.id === chosen ? "chosen" : ""}>
          <button
            className="head"
            aria-expanded={r.id === chosen}
            onClick={() => choose(r.id === chosen ? undefined : r.id)}
          >
            <b data-state={r.state}>{r.number}</b> {r.part}
            <span className="faint">
              {r.state !== "open" && ` ${t(states[r.state])}`}
              {r.proof !== picture.id && ` ${t("fromRound", { n: r.round })}`}
            </span>
          </button>
          {(r.id === chosen ? r.lines : r.lines.slice(0, 1)).map((l, i) => (
            <div key={i} className={i ? "reply" : ""}>
              <p>
                {l.state && <b>{t(states[l.state])} </b>}
                {l.words}
              </p>
              <small>
                {l.name}, {new Date(l.at).toLocaleString()}
              </small>
            </div>
          ))}
          {r.id === chosen && <Reply remark={r} picture={picture} put={put} />}
        </article>
      ))}
    </section>
  );
}

function Reply({ remark: r, picture, put }: { remark: Remark; picture: Picture; put: (all: Remark[]) => void }) {
  const t = useWords();
  const [words, setWords] = useState("");
  const { send, busy, wrong } = useSend();
  const say = (state: "" | "done") =>
    send(sayInRemark(r.id, { words, state, in: picture.id }), (all) => {
      put(all);
      setWords("");
    });
  return (
    <div className="reply">
      {wrong && <p role="alert">{wrong}</p>}
      <textarea
        aria-label={t("answerTo", { n: r.number })}
        value={words}
        maxLength={4000}
        onChange={(e) => setWords(e.target.value)}
      />
      <button disabled={busy || !words.trim()} onClick={() => say("")}>
        {t("say")}
      </button>
      {r.settles && r.state === "open" && (
        <button disabled={busy} onClick={() => say("done")}>
          {t("done")}
        </button>
      )}
    </div>
  );
}

type NewProps = { picture: Picture; mark: Mark; put: (all: Remark[]) => void; drop: () => void };

function NewRemark({ picture, mark, put, drop }: NewProps) {
  const t = useWords();
  const [words, setWords] = useState("");
  const { send, busy, wrong } = useSend();
  return (
    <div className="fresh">
      {wrong && <p role="alert">{wrong}</p>}
      <textarea
        autoFocus
        aria-label={t("words")}
        placeholder={t("words")}
        value={words}
        maxLength={4000}
        onChange={(e) => setWords(e.target.value)}
      />
      <button
        className="primary"
        disabled={busy || !words.trim()}
        onClick={() =>
          send(makeRemark(picture.id, { mark, words }), (all) => {
            put(all);
            drop();
          })
        }
      >
        {t("add")}
      </button>
      <button onClick={drop}>{t("discard")}</button>
    </div>
  );
}
