/** Colours between what people name, sRGB, and what light adds up in, scene-linear. */

export type Linear = { r: number; g: number; b: number };

const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const encode = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);

/** hexOf is the nearest sRGB colour as #rrggbb. */
export function hexOf(c: Linear): string {
  const two = (v: number) =>
    Math.round(255 * encode(Math.min(1, Math.max(0, v))))
      .toString(16)
      .padStart(2, "0");
  return `#${two(c.r)}${two(c.g)}${two(c.b)}`;
}

/** linearOf is an sRGB colour of eight bits a channel. */
export function linearOf(rgb: { r: number; g: number; b: number }): Linear {
  const one = (v: number) => +decode(v / 255).toPrecision(6);
  return { r: one(rgb.r), g: one(rgb.g), b: one(rgb.b) };
}

/** luminance is how light a colour is, by Rec. 709. */
export const luminance = (c: Linear) => 0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b;
