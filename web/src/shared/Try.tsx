import { useEffect, useState } from "react";
import styles from "./Try.module.css";

/** Try is a picture that is being made, or is here. */
export function Try({ blob, wrong }: { blob: Blob | undefined; wrong: string | undefined }) {
  const [url, setUrl] = useState("");
  useEffect(() => {
    if (!blob) return;
    const u = URL.createObjectURL(blob);
    setUrl(u);
    return () => URL.revokeObjectURL(u);
  }, [blob]);
  return (
    <span className={styles.try}>
      {blob && url ? <img src={url} alt="" /> : <span className="faint">{wrong ?? "rendering"}</span>}
    </span>
  );
}
