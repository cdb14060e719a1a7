import { useContext, useState } from "react";
import type { Mark } from "../shared/remarks/marks";
import { getRemarks, useAsked, usePhoto, type Picture, type Round } from "./api";
import { Language, useWords } from "./messages";
import { Pictures } from "./Pictures";
import { Remarks } from "./Remarks";
import { YourAnswer } from "./YourAnswer";

type Props = { round: Round; put: (r: Round) => void; offline: boolean };

/** RoundView is what is up in the round, one picture at a time. */
export function RoundView({ round, put, offline }: Props) {
  const t = useWords();
  const { tag, set } = useContext(Language);
  const [chosen, choose] = useState(0);
  // What is looked at stays in front, whatever is put up meanwhile: nobody answers to what they have not seen.
  const picture = round.pictures.find((p) => p.id === chosen) ?? round.pictures[0];
  if (picture && picture.id !== chosen) choose(picture.id);
  const due = round.due && new Date(`${round.due}T12:00`).toLocaleDateString(tag, { day: "numeric", month: "long" });
  return (
    <div className="page">
      <header>
        <img src="/mark.svg" width="24" height="24" alt="" />
        <h1>
          {round.project}, {round.title}
        </h1>
        <span className="faint">
          {t("round", { n: round.number })}
          {due && `, ${t("due", { day: due })}`} · {t(round.verdict)}
        </span>
        {offline && <span role="status">{t("offline")}</span>}
        <span className="right">
          <span className="faint">{round.name}</span>{" "}
          <button className="plain" onClick={() => set(tag === "en" ? "de" : "en")}>
            {t("language")}
          </button>
        </span>
        {round.note && <p className="note">{round.note}</p>}
      </header>
      {picture ? (
        <Looked key={picture.id} round={round} picture={picture} put={put} />
      ) : (
        <p className="empty">{t("nothing")}</p>
      )}
      {round.pictures.length > 1 && (
        <nav aria-label={t("pictures")}>
          {round.pictures.map((p) => (
            <Thumb key={p.id} picture={p} chosen={p === picture} choose={() => choose(p.id)} />
          ))}
        </nav>
      )}
    </div>
  );
}

function Thumb({ picture: p, chosen, choose }: { picture: Picture; chosen: boolean; choose: () => void }) {
  const t = useWords();
  const url = usePhoto(p.id, "", 1600);
  return (
    <button className="thumb" aria-pressed={chosen} onClick={choose}>
      {url ? <img src={url} alt="" /> : <i />}
      <span>{p.view}</span>
      <span className="faint">{t(p.verdict)}</span>
    </button>
  );
}

/** Looked is one picture with what is said of it. */
function Looked({ round, picture, put }: { round: Round; picture: Picture; put: (r: Round) => void }) {
  const remarks = useAsked(`remarks ${picture.id}`, () => getRemarks(picture.id));
  const [tool, setTool] = useState<Mark["kind"] | null>(null);
  const [draft, setDraft] = useState<Mark | null>(null);
  const [chosen, choose] = useState<number>();
  const all = remarks.data ?? [];
  return (
    <main className="looked">
      <Pictures
        picture={picture}
        originals={round.originals}
        remarks={all}
        chosen={chosen}
        choose={choose}
        tool={tool}
        setTool={setTool}
        draft={draft}
        draw={(m) => {
          setTool(null);
          setDraft(m);
        }}
      />
      <aside>
        <Remarks
          picture={picture}
          all={all}
          put={remarks.put}
          chosen={chosen}
          choose={choose}
          draft={draft}
          drop={() => setDraft(null)}
        />
        <YourAnswer round={round} picture={picture} put={put} />
      </aside>
    </main>
  );
}
