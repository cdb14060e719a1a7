type Props = { of: { width: number; height: number; area: number[] }; src: string; words: string };

/** Placed is a picture of the computed part of a frame, where that lies in it. */
export function Placed({ of, src, words }: Props) {
  const [x0, y0, x1, y1] = of.area as [number, number, number, number];
  const p = (v: number, all: number) => `${(v / all) * 100}%`;
  return (
    <img
      alt={words}
      src={src}
      draggable={false}
      style={{
        left: p(x0, of.width),
        top: p(y0, of.height),
        width: p(x1 - x0, of.width),
        height: p(y1 - y0, of.height),
      }}
    />
  );
}
