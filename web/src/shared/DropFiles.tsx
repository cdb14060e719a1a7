import { Button, Progress } from "antd";
import { useRef, useState } from "react";
import { ApiError, upload } from "../api/http";
import { useImport } from "../api/scenes";
import { count } from "./words";
import bits from "./bits.module.css";
import styles from "./DropFiles.module.css";

type Props<T> = {
  url: string;
  query?: Record<string, string>;
  accept: string;
  words: string;
  button: string;
  /** Whether the server tells its place in the line of imports. */
  inLine?: boolean;
  done: (result: T) => void;
};

/** What an import is at. */
const steps: Record<string, string> = {
  unpacking: "Unpacking the files",
  finishes: "Reading finishes and their pictures",
  shapes: "Reading shapes",
  finer: "Working out surface directions",
  keeping: "Keeping the scene",
};

/** DropFiles takes files by drop or by choice, shows how much is sent and what it waits for, and says what was wrong. */
export function DropFiles<T>(p: Props<T>) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [word, setWord] = useState("");
  const [error, setError] = useState("");
  const stop = useRef<AbortController | null>(null);
  const place = useImport(p.inLine && share === 1 ? word : "");
  const send = async (files: FileList | null) => {
    if (!files?.length) return;
    const mine = crypto.randomUUID();
    setError("");
    setShare(0);
    setWord(mine);
    stop.current = new AbortController();
    try {
      const query = new URLSearchParams(p.query);
      if (p.inLine) query.set("word", mine);
      p.done(await upload<T>(`${p.url}?${query}`, [...files], setShare, stop.current.signal));
    } catch (e) {
      setError(e instanceof ApiError ? e.message : String(e));
    }
    setShare(null);
    if (input.current) input.current.value = "";
  };
  const ahead = place.data?.known ? place.data.ahead : -1;
  return (
    <div
      className={over ? `${styles.drop} ${styles.over}` : styles.drop}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void send(e.dataTransfer.files);
      }}
    >
      <input
        ref={input}
        type="file"
        multiple
        accept={p.accept}
        hidden
        aria-label={p.button}
        onChange={(e) => void send(e.target.files)}
        data-testid="files"
      />
      {share === null ? (
        <>
          {p.words}{" "}
          <Button size="small" onClick={() => input.current?.click()}>
            {p.button}
          </Button>
        </>
      ) : (
        <div className={styles.going}>
          <span className={styles.step}>
            {share < 1
              ? "Sending"
              : ahead >= 0
                ? `Sent; ${count(ahead + 1, "import")} before this one`
                : (steps[place.data?.step ?? ""] ?? "Reading the files on the server")}
          </span>
          <Progress
            percent={Math.round(100 * (share < 1 ? share : (place.data?.share ?? 0)))}
            size="small"
            aria-label={share < 1 ? "Sent" : "Read"}
          />
          <Button size="small" type="text" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        </div>
      )}
      {error && (
        <div className={`${bits.notice} ${styles.answer}`} role="alert">
          {error}
        </div>
      )}
    </div>
  );
}
