import { useState } from "react";
import { answer, type Answer, type Picture, type Round } from "./api";
import { useWords } from "./messages";
import { useSend } from "./useSend";

type Props = { round: Round; picture: Picture; put: (r: Round) => void };

/** YourAnswer is the guest's verdict: on the picture that is looked at, or on all that wait. */
export function YourAnswer({ round, picture, put }: Props) {
  const t = useWords();
  const [words, setWords] = useState("");
  const { send, busy, wrong } = useSend();
  const settled = picture.verdict.startsWith("approved");
  const waiting = round.pictures.filter((p) => p.verdict === "waiting");
  const said = words.trim() !== "";
  const say = (verdict: Answer, of: Picture[]) =>
    send(answer({ verdict, words, proofs: of.map(({ id, sha256 }) => ({ id, sha256 })) }), (r) => {
      put(r);
      setWords("");
    });
  const yes: Answer = said ? "approved with remarks" : "approved";
  return (
    <section aria-label={t("yourAnswer")} className="answer">
      <h2>{t("yourAnswer")}</h2>
      {picture.mine && (
        <p>
          {t("youSaid", { verdict: t(picture.mine.verdict) })}
          {picture.mine.words && <q>{picture.mine.words}</q>}
        </p>
      )}
      {!round.asked && <p className="faint">{t("notAsked")}</p>}
      {round.asked && !settled && (
        <>
          {wrong && <p role="alert">{wrong}</p>}
          <textarea
            aria-label={t("answerWords")}
            placeholder={t("answerWords")}
            value={words}
            maxLength={4000}
            onChange={(e) => setWords(e.target.value)}
          />
          <button className="primary" disabled={busy} onClick={() => say(yes, [picture])}>
            {t(said ? "approveWith" : "approve")}
          </button>
          {waiting.length > 1 && (
            <button disabled={busy} onClick={() => say(yes, waiting)}>
              {t("approveAll", { n: waiting.length })}
            </button>
          )}
          <button disabled={busy || !said} title={t("changesHelp")} onClick={() => say("changes asked", [picture])}>
            {t("changes")}
          </button>
          <small>{t("stays")}</small>
        </>
      )}
    </section>
  );
}
