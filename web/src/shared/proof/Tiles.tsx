import { useEffect, useState } from "react";
import { useLooked, type Looked } from "./looked";
import styles from "./Tiles.module.css";

/** Tile is a part of a picture: of a level, each half the size of the one before, and its place in tiles. */
export type Tile = { level: number; x: number; y: number };

/** Where a picture's frame lies in the frame of the desk, in shares of that. */
export type Lay = { x: number; y: number; width: number; height: number };

const whole: Lay = { x: 0, y: 0, width: 1, height: 1 };

/** side of a tile, pixels, as the server cuts them. */
const side = 256;

type Framed = { width: number; height: number; area: number[] };
type Props = {
  of: Framed;
  lay?: Lay | undefined;
  /** What of it is looked at, and how; another word for another picture. */
  look: string;
  src: (look: string, t: Tile) => string;
  words: string;
};

/** Tiles are a picture in parts, at the size at which it is looked at; the one before stays until they have come. */
export function Tiles({ of, lay = whole, look, src, words }: Props) {
  const [held, hold] = useState(look);
  const layer = (l: string) => (
    <Layer key={l} of={of} lay={lay} src={(t) => src(l, t)} words={words} done={() => l === look && hold(l)} />
  );
  return (
    <>
      {held !== look && layer(held)}
      {layer(look)}
    </>
  );
}

type LayerProps = { of: Framed; lay: Lay; src: (t: Tile) => string; words: string; done: () => void };

function Layer({ of, lay, src, words, done }: LayerProps) {
  const looked = useLooked();
  const [have, setHave] = useState<ReadonlySet<string>>(new Set());
  const [lost, setLost] = useState(false);
  const { levels, box, place } = laidOut(of, lay, looked);
  const finest = levels[levels.length - 1]!.map(src);
  const complete = finest.every((u) => have.has(u));
  useEffect(() => {
    if (complete) done();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [complete]);
  const came = (url: string, is: boolean) =>
    setHave((was) => {
      const now = new Set(was);
      if (is) now.add(url);
      else now.delete(url);
      return now;
    });
  return (
    <div className={styles.layer} style={box} role="img" aria-label={words}>
      {(complete ? levels.slice(-1) : levels).flat().map((t) => {
        const url = src(t);
        return <One key={url} src={url} style={place(t)} came={came} lost={() => setLost(true)} />;
      })}
      {lost && <div className={styles.note}>A part of the picture could not be had; load the page again</div>}
    </div>
  );
}

type OneProps = {
  src: string;
  style: React.CSSProperties;
  came: (url: string, is: boolean) => void;
  lost: () => void;
};

function One({ src, style, came, lost }: OneProps) {
  useEffect(() => () => came(src, false), [src]); // eslint-disable-line react-hooks/exhaustive-deps
  return <img src={src} alt="" draggable={false} style={style} onLoad={() => came(src, true)} onError={lost} />;
}

/** laidOut is which tiles are in sight, from the coarsest level to the one looked at, and where they lie. */
function laidOut(of: Framed, lay: Lay, { width, height, scale, sight }: Looked) {
  const [x0, y0, x1, y1] = of.area as [number, number, number, number];
  // Pixels of the page per pixel of the picture, and where its frame begins.
  const kx = (scale * width * lay.width) / of.width;
  const ky = (scale * height * lay.height) / of.height;
  const left = lay.x * width * scale + x0 * kx;
  const top = lay.y * height * scale + y0 * ky;
  const [w, h] = [x1 - x0, y1 - y0];
  const coarsest = Math.max(0, Math.ceil(Math.log2(Math.max(w, h) / side)));
  const fits = Math.floor(-Math.log2(kx * window.devicePixelRatio) + 0.01);
  const level = Math.min(coarsest, Math.max(0, fits));
  const seen = [
    Math.max(0, (sight[0] * scale - left) / kx),
    Math.max(0, (sight[1] * scale - top) / ky),
    Math.min(w, (sight[2] * scale - left) / kx),
    Math.min(h, (sight[3] * scale - top) / ky),
  ] as const;
  const levels: Tile[][] = [];
  for (let l = coarsest; l >= level; l--) {
    const s = side << l;
    const tiles: Tile[] = [];
    for (let y = Math.floor(seen[1] / s); y * s < seen[3]; y++)
      for (let x = Math.floor(seen[0] / s); x * s < seen[2]; x++) tiles.push({ level: l, x, y });
    levels.push(tiles);
  }
  const at = (v: number, from: number, k: number) => Math.round(from + v * k) - Math.round(from);
  const box = {
    left: Math.round(left),
    top: Math.round(top),
    width: at(w, left, kx),
    height: at(h, top, ky),
  };
  const place = (t: Tile): React.CSSProperties => {
    // The last pixel of a level may reach over the edge: it is as wide as the others.
    const end = (n: number, all: number) => Math.min(side * (n + 1), Math.ceil(all / 2 ** t.level)) * 2 ** t.level;
    const px = at(t.x * (side << t.level), left, kx);
    const py = at(t.y * (side << t.level), top, ky);
    return { left: px, top: py, width: at(end(t.x, w), left, kx) - px, height: at(end(t.y, h), top, ky) - py };
  };
  return { levels, box, place };
}
