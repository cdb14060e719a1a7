import { useState, type ReactNode } from "react";
import { Desk, fit, type Zoom } from "../shared/proof/Desk";
import { Placed } from "../shared/proof/Placed";
import { MarkCatcher } from "../shared/remarks/MarkCatcher";
import { Marks } from "../shared/remarks/Marks";
import type { Mark } from "../shared/remarks/marks";
import { useKeys } from "../shared/useKeys";
import { side, upright } from "../shared/viewer/wipe";
import { WipeHandle } from "../shared/viewer/WipeHandle";
import { original, usePhoto, type Picture, type Remark } from "./api";
import { useWords, type Key } from "./messages";

type Props = {
  picture: Picture;
  originals: boolean;
  remarks: Remark[];
  chosen: number | undefined;
  choose: (id: number) => void;
  tool: Mark["kind"] | null;
  setTool: (t: Mark["kind"] | null) => void;
  draft: Mark | null;
  draw: (m: Mark) => void;
};

const modes = ["alone", "beside", "wipe", "flip"] as const;
const tools = ["spot", "box", "stroke"] as const;

/** Pictures are the picture, and the one before it beside, under or behind it, at one zoom. */
export function Pictures({ picture, originals, remarks, chosen, choose, tool, setTool, draft, draw }: Props) {
  const t = useWords();
  const [mode, setMode] = useState<(typeof modes)[number]>("alone");
  const [flipped, setFlipped] = useState(false);
  const [wipe, setWipe] = useState(upright);
  const [zoom, setZoom] = useState<Zoom>(fit);
  const [scale, setScale] = useState(1);
  const [pass, setPass] = useState("");
  const aspect = picture.width / picture.height;
  const before = picture.before;
  const shown = before ? mode : "alone";
  const go = (m: (typeof modes)[number]) => {
    if (m === "flip") setFlipped(mode === "flip" ? !flipped : true);
    setMode(m);
  };
  useKeys([
    { key: "a", says: t("alone"), act: () => go("alone") },
    ...(before
      ? [
          { key: "s", says: t("beside"), act: () => go("beside") },
          { key: "w", says: t("wipe"), act: () => go("wipe") },
          { key: "f", says: t("flip"), act: () => go("flip") },
        ]
      : []),
    { key: "0", says: t("whole"), act: () => setZoom(fit) },
    { key: "escape", says: t("leave"), act: () => setTool(null) },
  ]);
  const large = scale > 1.2;
  const desk = (of: Framed, words: string, inner?: ReactNode) => (
    <figure>
      <figcaption>{words}</figcaption>
      <Desk width={of.width} height={of.height} onZoom={setScale} lock={{ zoom, set: setZoom }}>
        <Photo of={of} pass={of === picture ? pass : ""} large={large} words={`${picture.view}, ${words}`} />
        {inner}
        {of === picture && (
          <>
            <Marks pins={remarks} proof={picture.id} chosen={chosen} choose={choose} draft={draft} />
            {tool && <MarkCatcher tool={tool} done={draw} />}
          </>
        )}
      </Desk>
    </figure>
  );
  const words = before ? t("before", { n: before.round }) : "";
  return (
    <section className="pictures">
      <div className="tools">
        {before && (
          <span role="group" aria-label={t("compare")}>
            {modes.map((m) => (
              <button key={m} aria-pressed={shown === m} onClick={() => go(m)}>
                {t(m)}
              </button>
            ))}
          </span>
        )}
        {picture.passes.length > 1 && (
          <span role="group" aria-label={t("passes")}>
            {picture.passes.map((p, i) => (
              <button
                key={p.key}
                aria-pressed={(pass || picture.passes[0]!.key) === p.key}
                onClick={() => setPass(i ? p.key : "")}
              >
                {p.title}
              </button>
            ))}
          </span>
        )}
        {tool ? (
          <span role="group" aria-label={t("remark")}>
            {tools.map((k) => (
              <button key={k} aria-pressed={tool === k} onClick={() => setTool(k)}>
                {t(k satisfies Key)}
              </button>
            ))}
            <button onClick={() => setTool(null)}>{t("leave")}</button>
          </span>
        ) : (
          <button onClick={() => setTool("spot")}>{t("remark")}</button>
        )}
        <span className="right">
          <button onClick={() => setZoom(zoom.k === 1 ? { k: 2.5, x: 0, y: 0 } : fit)}>
            {t(zoom.k === 1 ? "closer" : "whole")}
          </button>
          {originals && <button onClick={() => void original(picture, pass)}>{t("original")}</button>}
        </span>
      </div>
      {tool && (
        <p className="hint" role="status">
          {t("press")}
        </p>
      )}
      <div className="desks">
        {before && shown === "beside" && desk(before, words)}
        {before && shown === "flip" && flipped
          ? desk(before, words)
          : desk(
              picture,
              t("now"),
              before && shown === "wipe" && (
                <>
                  <div className="over" style={{ clipPath: side(wipe, aspect, "before") }}>
                    <Photo of={before} pass="" large={large} words={`${picture.view}, ${words}`} />
                  </div>
                  <WipeHandle wipe={wipe} set={setWipe} aspect={aspect} />
                </>
              ),
            )}
      </div>
    </section>
  );
}

type Framed = { id: number; width: number; height: number; area: number[] };

function Photo({ of, pass, large, words }: { of: Framed; pass: string; large: boolean; words: string }) {
  const src = usePhoto(of.id, pass, large && Math.max(of.width, of.height) > 1600 ? 0 : 1600);
  return src ? <Placed of={of} src={src} words={words} /> : null;
}
