import type { ReactNode } from "react";
import { differencePicture, lookQuery, tileURL, useLay } from "../api/rounds";
import { Desk } from "../shared/proof/Desk";
import { Placed } from "../shared/proof/Placed";
import { Tiles } from "../shared/proof/Tiles";
import { useKeys } from "../shared/useKeys";
import { side } from "../shared/viewer/wipe";
import { WipeHandle } from "../shared/viewer/WipeHandle";
import { CompareBar, numbered, type Mode } from "./CompareBar";
import { Stops } from "./Stops";
import type { Compared, Shown } from "./useCompared";
import { useLooking, type Looking } from "./useLooking";
import styles from "./RoundPage.module.css";

type Props = {
  now: Shown;
  compared: Compared;
  /** The same view was up before. */
  before: boolean;
  mode: Mode;
  setMode: (m: Mode) => void;
  /** What lies over the picture of the proof, and beside what compares. */
  over: ReactNode;
  tools: ReactNode;
};

/** Pictures are a proof and up to three others: alone, side by side, wiped, flipped, or taken off each other. */
export function Pictures({ now, compared, before, mode, setMode, over, tools }: Props) {
  const v = useLooking();
  const others = compared.others;
  const none = others.length === 0;
  const shown = mode === "changed" ? (before ? mode : "alone") : none ? "alone" : mode;
  const all = [now, ...others];
  const front = shown === "flip" ? (all[v.turn % all.length] ?? now) : now;
  const other = others[Math.min(v.against, others.length - 1)];
  const flip = () => {
    setMode("flip");
    v.setTurn(mode === "flip" ? (v.turn + 1) % all.length : 1);
  };
  const step = (by: number) => v.setStops(Math.min(10, Math.max(-10, v.stops + by)));
  useKeys([
    { key: "a", says: "This proof alone", act: () => setMode("alone") },
    ...(none
      ? []
      : [
          { key: "s", says: "Side by side with the others", act: () => setMode("beside") },
          { key: "w", says: "Wipe to the other", act: () => setMode("wipe") },
          { key: "f", says: "Flip to the other and back", act: flip },
          { key: "x", says: "Difference from the other", act: () => setMode("difference") },
        ]),
    ...(others.length > 1
      ? [{ key: "o", says: "Another one to wipe to", act: () => v.setAgainst((v.against + 1) % others.length) }]
      : []),
    ...(before ? [{ key: "d", says: "What changed in the picture", act: () => setMode("changed") }] : []),
    { key: "+", says: "Half a stop lighter", act: () => step(0.5) },
    { key: "-", says: "Half a stop darker", act: () => step(-0.5) },
    { key: "0", says: "The whole picture", act: () => v.go("fit") },
    { key: "1", says: "Single pixels", act: () => v.go("pixels") },
  ]);
  const aspect = now.proof.width / now.proof.height;
  const many = all.length > 2; // they are numbered, from the one in front; of two the one before is on the left
  const one = (s: Shown, inner?: ReactNode) => (
    <One key={s.key} s={s} frame={now} looking={v} words={numbered(s, all.indexOf(s), all)} own={shown === "beside"}>
      {shown === "changed" ? (
        <Placed of={now.proof} src={differencePicture(now.proof)} words="What changed, in amber" />
      ) : (
        <Picture s={s} frame={now} looking={v} less={shown === "difference" ? other : undefined} />
      )}
      {inner}
      {s === now && over}
    </One>
  );
  return (
    <div className={styles.compared}>
      <CompareBar
        proof={now.proof}
        mode={shown}
        setMode={setMode}
        compared={compared}
        before={before}
        looking={v}
        tools={tools}
      />
      <div className={styles.pictures} data-many={shown === "beside" && all.length > 3}>
        {shown === "beside" && !many && others.map((s) => one(s))}
        {one(
          front,
          shown === "wipe" && other && (
            <>
              <div className={styles.over} style={{ clipPath: side(v.wipe, aspect, "before") }} data-testid="over">
                <Picture s={other} frame={now} looking={v} />
              </div>
              <WipeHandle wipe={v.wipe} set={v.setWipe} aspect={aspect} />
            </>
          ),
        )}
        {shown === "beside" && many && others.map((s) => one(s))}
      </div>
    </div>
  );
}

type OneProps = {
  s: Shown;
  frame: Shown;
  looking: Looking;
  words: string;
  /** It may have an exposure of its own. */
  own: boolean;
  children: ReactNode;
};

/** One is a picture with its words, on a desk that has the frame of the proof in front: all line up. */
function One({ s, frame, looking: v, words, own, children }: OneProps) {
  const lay = useLay(frame.proof.id, s.proof.id).data;
  return (
    <figure className={styles.picture}>
      <figcaption>
        <span className="mono">{words}</span>
        {lay && !lay.same && (
          <span title="Their cameras differ: the frames lie over each other, and not what they show.">
            another view
          </span>
        )}
        {own && v.free && (
          <Stops label={`Exposure of ${words}`} value={v.ownOf(s.key)} set={(n) => v.setOwnOf(s.key, n)} />
        )}
      </figcaption>
      <Desk
        width={frame.proof.width}
        height={frame.proof.height}
        onZoom={v.setScale}
        command={v.command}
        lock={{ zoom: v.zoom, set: v.setZoom }}
      >
        {children}
      </Desk>
      <Slug s={s} />
    </figure>
  );
}

/** Picture is a picture of a proof where it lies in the frame of the one in front. */
function Picture({
  s,
  frame,
  looking: v,
  less,
}: {
  s: Shown;
  frame: Shown;
  looking: Looking;
  less?: Shown | undefined;
}) {
  const lay = useLay(frame.proof.id, s.proof.id).data;
  if (s.proof.id !== frame.proof.id && !lay) return null;
  const pass = passOf(s, v.pass);
  const words = `${s.proof.slug}, proof ${s.proof.number}`;
  const look = lookQuery(s.proof, {
    pass,
    stops: v.stopsOf(s.key),
    ...(less && { less: { proof: less.proof, pass: passOf(less, v.pass), gain: v.gain } }),
  });
  return (
    <Tiles
      of={s.proof}
      lay={lay}
      look={look}
      src={(l, t) => tileURL(s.proof, l, t)}
      words={less ? `Difference of ${words} from ${less.words}` : words}
    />
  );
}

/** passOf is the pass shown: its own, or the chosen one if the proof has it. */
const passOf = (s: Shown, chosen: string) =>
  s.pass ?? (s.proof.passes.some((q) => q.key === chosen) ? chosen : s.proof.passes[0]!.key);

function Slug({ s: { proof } }: { s: Shown }) {
  return (
    <div className={`${styles.slug} mono`}>
      <div className={styles.said} title={proof.slug}>
        {proof.slug}
      </div>
      <div className={`faint ${styles.sealed}`}>
        checksum {proof.sha256.slice(0, 12)} · put up by {proof.by}, {new Date(proof.created).toLocaleString()}
      </div>
    </div>
  );
}
