import { Button, Progress } from "antd";
import { useRef, useState } from "react";
import { ApiError, upload } from "../api/http";
import { useImport } from "../scenes/api";
import { count } from "./words";
import bits from "./bits.module.css";
import styles from "./DropFiles.module.css";

type Props<T> = {
  url: string;
  accept: string;
  words: string;
  button: string;
  /** Whether the server tells its place in the line of imports. */
  inLine?: boolean;
  done: (result: T) => void;
};

/** DropFiles takes files by drop or by choice, shows how much is sent and what it waits for, and says what was wrong. */
export function DropFiles<T>(p: Props<T>) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [word, setWord] = useState("");
  const [error, setError] = useState("");
  const place = useImport(p.inLine && share === 1 ? word : "");
  const send = async (files: FileList | null) => {
    if (!files?.length) return;
    const mine = crypto.randomUUID();
    setError("");
    setShare(0);
    setWord(mine);
    try {
      p.done(await upload<T>(p.inLine ? `${p.url}?word=${mine}` : p.url, [...files], setShare));
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
      ) : share < 1 ? (
        <Progress percent={Math.round(share * 100)} size="small" aria-label="Sent" />
      ) : ahead >= 0 ? (
        `Sent; ${count(ahead + 1, "import")} before this one`
      ) : (
        "Reading the files on the server"
      )}
      {error && (
        <div className={`${bits.notice} ${styles.answer}`} role="alert">
          {error}
        </div>
      )}
    </div>
  );
}
