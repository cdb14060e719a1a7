import { useContext, useEffect, useState } from "react";
import { openLink, Wrong } from "./api";
import { Language, useWords } from "./messages";

/** Door asks who looks, and for the pass phrase where the link has one. */
export function Door({ enter }: { enter: () => void }) {
  const t = useWords();
  const { tag, set } = useContext(Language);
  const token = location.hash.slice(1);
  const [asks, setAsks] = useState<{ phrase: boolean }>();
  const [name, setName] = useState("");
  const [phrase, setPhrase] = useState("");
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const fail = (e: unknown) => setWrong(e instanceof Wrong && e.message ? e.message : t("offline"));
  useEffect(() => {
    if (token === "") return;
    openLink(token, "", "").then((v) => {
      setAsks({ phrase: v.phrase });
      setName((was) => was || v.name);
    }, fail);
    // Once, when the page is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [token]);
  const send = () => {
    setBusy(true);
    openLink(token, phrase, name.trim())
      .then((v) => (v.session ? enter() : setAsks({ phrase: v.phrase })), fail)
      .finally(() => setBusy(false));
  };
  return (
    <main className="door">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <img src="/mark.svg" width="36" height="36" alt="Amber Proof" />
        <h1>{t("welcome")}</h1>
        {(wrong || token === "") && <p role="alert">{wrong || t("cutOff")}</p>}
        {asks && (
          <>
            <label>
              {t("yourName")}
              <input value={name} maxLength={120} autoComplete="name" onChange={(e) => setName(e.target.value)} />
              <small>{t("nameHelp")}</small>
            </label>
            {asks.phrase && (
              <label>
                {t("phrase")}
                <input type="password" value={phrase} maxLength={200} onChange={(e) => setPhrase(e.target.value)} />
                <small>{t("phraseHelp")}</small>
              </label>
            )}
            <button className="primary" disabled={busy || !name.trim() || (asks.phrase && !phrase)}>
              {t("enter")}
            </button>
          </>
        )}
        <button type="button" className="plain" onClick={() => set(tag === "en" ? "de" : "en")}>
          {t("language")}
        </button>
      </form>
    </main>
  );
}
