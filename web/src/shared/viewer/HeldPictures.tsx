import { useState, type CSSProperties } from "react";
import { WipeHandle } from "./WipeHandle";
import styles from "./Viewer.module.css";

/** HeldPictures are one picture, or two with a line between them that can be moved. */
export function HeldPictures({ urls, place }: { urls: string[]; place: CSSProperties }) {
  const [wipe, setWipe] = useState(50);
  return (
    <div className={styles.held} style={place} data-testid="held">
      <img src={urls[0]} alt="The kept picture" />
      {urls[1] && (
        <>
          <img src={urls[1]} alt="The other kept picture" style={{ clipPath: `inset(0 0 0 ${wipe}%)` }} />
          <WipeHandle at={wipe} set={setWipe} />
        </>
      )}
    </div>
  );
}
