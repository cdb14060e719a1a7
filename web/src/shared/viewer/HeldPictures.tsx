import { useState, type CSSProperties } from "react";
import { side, upright } from "./wipe";
import { WipeHandle } from "./WipeHandle";
import styles from "./Viewer.module.css";

/** HeldPictures are one picture, or two with a line between them that can be moved. */
export function HeldPictures({ urls, place, aspect }: { urls: string[]; place: CSSProperties; aspect: number }) {
  const [wipe, setWipe] = useState(upright);
  return (
    <div className={styles.held} style={place} data-testid="held">
      <img src={urls[0]} alt="The kept picture" />
      {urls[1] && (
        <>
          <img src={urls[1]} alt="The other kept picture" style={{ clipPath: side(wipe, aspect, "after") }} />
          <WipeHandle wipe={wipe} set={setWipe} aspect={aspect} />
        </>
      )}
    </div>
  );
}
