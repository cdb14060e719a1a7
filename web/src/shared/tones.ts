/** The greys of the room are neutral, so that the eye judges colour truly. */
export const tones = {
  room: "#2e2e2e",
  docket: "#3a3a3a",
  raised: "#444444",
  wall: "#515151",
  rule: "#5c5c5c",
  ink: "#ededed",
  faint: "#b9b9b9",
  /** What cannot be used now. */
  off: "#8c8c8c",
  amber: "#ffb21a",
  /** Lines between surfaces, and what is written on amber. */
  hairline: "#222222",
  /** Behind a notice. */
  note: "#48443a",
  /** The chequers that show through what is clear. */
  "check-light": "#6a6a6a",
  "check-dark": "#5e5e5e",
};

/** What a proof can be laid on, to judge its edge and its darks. */
export const walls = { dark: "#161616", mid: tones.wall, light: "#b4b4b4" };

/** How the channels of a histogram are drawn. */
export const channelTones = { red: "#ff8a7a", green: "#8fe08f", blue: "#9db8ff" };

/** The light that the turnable view is drawn in. */
export const drawing = { light: "#ffffff", shade: "#777777" };

/** For scripts that our faces lack. */
const otherScripts =
  "'Noto Sans', 'Noto Sans Arabic', 'Noto Sans Hebrew', 'Noto Sans Thai', 'Noto Sans JP', 'Noto Sans KR', 'Noto Sans SC'";

export const typefaces = {
  text: `'Archivo', ${otherScripts}, sans-serif`,
  narrow: `'Archivo Narrow', ${otherScripts}, sans-serif`,
  mono: `'Spline Sans Mono', ${otherScripts}, monospace`,
};

/** publish hands tones and typefaces to the style sheets, as var(--name). */
export function publish(root: HTMLElement) {
  for (const [name, value] of Object.entries({ ...tones, ...typefaces })) root.style.setProperty(`--${name}`, value);
}
