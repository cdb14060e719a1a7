import { useState } from "react";
import type { Wrong } from "./api";
import { useWords } from "./messages";

/** useSend sends something once at a time, and says what was wrong with it. */
export function useSend() {
  const t = useWords();
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState("");
  const send = <T>(call: Promise<T>, done: (v: T) => void) => {
    setBusy(true);
    setWrong("");
    call.then(done, (e: Wrong) => setWrong(e.message || t("offline"))).finally(() => setBusy(false));
  };
  return { send, busy, wrong };
}
