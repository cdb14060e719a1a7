import { Button, Progress } from "antd";
import { useRef, useState } from "react";
import { ApiError, upload } from "../api/client";

/** DropFiles takes files by drop or by choice, shows how much is sent, and says what was wrong. */
export function DropFiles<T>(p: {
  url: string;
  accept: string;
  words: string;
  button: string;
  done: (result: T) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState("");
  const send = async (files: FileList | null) => {
    if (!files?.length) return;
    setError("");
    setShare(0);
    try {
      p.done(await upload<T>(p.url, [...files], setShare));
    } catch (e) {
      setError(e instanceof ApiError ? e.message : String(e));
    }
    setShare(null);
    if (input.current) input.current.value = "";
  };
  return (
    <div
      className={over ? "drop over" : "drop"}
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
        <Progress percent={Math.round(share * 100)} size="small" />
      ) : (
        "Reading the files on the server"
      )}
      {error && (
        <div className="notice" role="alert" style={{ marginTop: 12, textAlign: "left", color: "var(--ink)" }}>
          {error}
        </div>
      )}
    </div>
  );
}
