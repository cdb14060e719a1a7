import { useEffect, useState } from "react";
import { forget, getRound, resume, useAsked } from "./api";
import { Door } from "./Door";
import { firstLanguage, Language, useWords } from "./messages";
import { RoundView } from "./RoundView";

/** Guest is the whole page of who looks by a link. */
export function Guest() {
  const [tag, set] = useState(firstLanguage);
  useEffect(() => {
    document.documentElement.lang = tag;
  }, [tag]);
  const [inside, setInside] = useState(resume);
  return (
    <Language.Provider value={{ tag, set }}>
      {inside ? <Inside leave={() => setInside(false)} /> : <Door enter={() => setInside(true)} />}
    </Language.Provider>
  );
}

function Inside({ leave }: { leave: () => void }) {
  const t = useWords();
  const round = useAsked("round", getRound);
  const ended = round.wrong?.status === 401;
  useEffect(() => {
    if (!ended) return;
    forget();
    leave();
  }, [ended, leave]);
  if (!round.data) return <p className="empty">{round.wrong ? round.wrong.message || t("offline") : t("loading")}</p>;
  return <RoundView round={round.data} put={round.put} offline={round.wrong !== null} />;
}
