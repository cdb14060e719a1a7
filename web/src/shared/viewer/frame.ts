/** A rectangle in pixels of the view. */
export type Rectangle = { w: number; h: number; x: number; y: number };

const margin = 28;

/** frameIn is the picture's frame in a view: as large as fits, in the middle. */
export function frameIn(w: number, h: number, aspect: number): Rectangle {
  const iw = Math.max(40, w - 2 * margin);
  const ih = Math.max(40, h - 2 * margin);
  const fw = Math.min(iw, ih * aspect);
  return { w: fw, h: fw / aspect, x: (w - fw) / 2, y: (h - fw / aspect) / 2 };
}

/** placed puts an element over a rectangle of the view. */
export const placed = (r: Rectangle) => ({ left: r.x, top: r.y, width: r.w, height: r.h });
