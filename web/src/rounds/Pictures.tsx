import { Button, Segmented } from "antd";
import { useState, type ReactNode } from "react";
import { differencePicture, proofPicture, type ProofUp } from "../api/rounds";
import { Desk, fit, type Zoom } from "../shared/proof/Desk";
import { Placed } from "../shared/proof/Placed";
import { useKeys } from "../shared/useKeys";
import { WipeHandle } from "../shared/viewer/WipeHandle";
import styles from "./RoundPage.module.css";

export type Mode = "alone" | "beside" | "wipe" | "flip" | "changed";

type Named = { proof: ProofUp; words: string };
type Props = {
  now: Named;
  before: Named | null;
  mode: Mode;
  setMode: (m: Mode) => void;
  /** What lies over the picture of the proof, and beside what compares. */
  over: ReactNode;
  tools: ReactNode;
};

/** Pictures are a proof and the one before it: one of them, both side by side, wiped or flipped, at one zoom. */
export function Pictures({ now, before, mode, setMode, over, tools }: Props) {
  const [zoom, setZoom] = useState<Zoom>(fit);
  const [scale, setScale] = useState(1);
  const [command, setCommand] = useState({ kind: "fit" as "fit" | "pixels", n: 0 });
  const [wipe, setWipe] = useState(50);
  const [flipped, setFlipped] = useState(false);
  const [pass, setPass] = useState("");
  const shown = before ? mode : "alone";
  const turn = (kind: "fit" | "pixels") => setCommand((c) => ({ kind, n: c.n + 1 }));
  const flip = () => {
    setMode("flip");
    setFlipped((v) => (mode === "flip" ? !v : true));
  };
  useKeys([
    { key: "a", says: "This proof alone", act: () => setMode("alone") },
    ...(before
      ? [
          { key: "s", says: "Side by side with the one before", act: () => setMode("beside") },
          { key: "w", says: "Wipe to the one before", act: () => setMode("wipe") },
          { key: "f", says: "Flip to the one before and back", act: flip },
          { key: "d", says: "What changed in the picture", act: () => setMode("changed") },
        ]
      : []),
    { key: "0", says: "The whole picture", act: () => turn("fit") },
    { key: "1", says: "Single pixels", act: () => turn("pixels") },
  ]);
  const desk = (n: Named, inner?: ReactNode) => (
    <figure className={styles.picture}>
      <figcaption className="mono">{n.words}</figcaption>
      <Desk
        width={n.proof.width}
        height={n.proof.height}
        onZoom={setScale}
        command={command}
        lock={{ zoom, set: setZoom }}
      >
        {shown === "changed" ? (
          <Placed of={n.proof} src={differencePicture(n.proof)} words="What changed, in amber" />
        ) : (
          <Sheet proof={n.proof} pass={pass} whole={scale > 0.9} />
        )}
        {inner}
        {n === now && over}
      </Desk>
      <Slug proof={n.proof} />
    </figure>
  );
  return (
    <div className={styles.compared}>
      <div className={styles.bar}>
        <Segmented<Mode>
          size="small"
          aria-label="Compare"
          value={shown}
          onChange={setMode}
          options={[
            { value: "alone", label: "Alone" },
            { value: "beside", label: "Side by side", disabled: !before },
            { value: "wipe", label: "Wipe", disabled: !before },
            { value: "flip", label: "Flip", disabled: !before },
            { value: "changed", label: "Changed", disabled: !before },
          ]}
        />
        {now.proof.passes.length > 1 && (
          <Segmented
            size="small"
            aria-label="Picture of the proof"
            value={pass || now.proof.passes[0]!.key}
            onChange={setPass}
            options={now.proof.passes.map((p) => ({ value: p.key, label: p.title }))}
          />
        )}
        {tools}
        <Button size="small" className={styles.scale} onClick={() => turn(scale === 1 ? "fit" : "pixels")}>
          {Math.round(scale * 100)} %
        </Button>
      </div>
      <div className={styles.pictures}>
        {before && shown === "beside" && desk(before)}
        {desk(
          before && shown === "flip" && flipped ? before : now,
          before && shown === "wipe" && (
            <>
              <div className={styles.over} style={{ clipPath: `inset(0 ${100 - wipe}% 0 0)` }} data-testid="over">
                <Sheet proof={before.proof} pass={pass} whole={scale > 0.9} />
              </div>
              <WipeHandle at={wipe} set={setWipe} />
            </>
          ),
        )}
      </div>
    </div>
  );
}

/** Sheet is a picture of a proof, large or whole. */
function Sheet({ proof, pass, whole }: { proof: ProofUp; pass: string; whole: boolean }) {
  const own = proof.passes.some((q) => q.key === pass) ? pass : ""; // the proof before may not have it
  return (
    <Placed
      of={proof}
      src={proofPicture(proof, whole ? 0 : 1400, own)}
      words={`${proof.slug}, proof ${proof.number}`}
    />
  );
}

function Slug({ proof }: { proof: ProofUp }) {
  return (
    <div className={`${styles.slug} mono`}>
      {proof.slug}
      <div className="faint">
        checksum {proof.sha256.slice(0, 12)} · put up by {proof.by}, {new Date(proof.created).toLocaleString()}
      </div>
    </div>
  );
}
