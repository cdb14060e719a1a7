import { theme, type ThemeConfig } from "antd";

/** The greys of the room are neutral, so that the eye judges colour truly. */
export const tones = {
  room: "#2e2e2e",
  docket: "#3a3a3a",
  raised: "#444444",
  wall: "#515151",
  rule: "#5c5c5c",
  ink: "#ededed",
  faint: "#b9b9b9",
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

const typefaces = {
  text: `'Archivo', ${otherScripts}, sans-serif`,
  narrow: `'Archivo Narrow', ${otherScripts}, sans-serif`,
  mono: `'Spline Sans Mono', ${otherScripts}, monospace`,
};

/** publish hands tones and typefaces to the style sheets, as var(--name). */
export function publish(root: HTMLElement) {
  for (const [name, value] of Object.entries({ ...tones, ...typefaces })) root.style.setProperty(`--${name}`, value);
}

export const antTheme: ThemeConfig = {
  algorithm: [theme.darkAlgorithm, theme.compactAlgorithm],
  token: {
    colorPrimary: tones.amber,
    colorInfo: tones.faint,
    colorLink: tones.ink,
    colorBgBase: tones.room,
    colorBgLayout: tones.room,
    colorBgContainer: tones.docket,
    colorBgElevated: tones.raised,
    colorBorder: tones.rule,
    colorBorderSecondary: tones.rule,
    colorText: tones.ink,
    colorTextSecondary: tones.faint,
    colorTextTertiary: tones.faint,
    colorTextLightSolid: tones.hairline,
    colorTextPlaceholder: tones.faint,
    colorTextDisabled: "#8c8c8c",
    controlItemBgActive: tones.wall,
    controlItemBgHover: tones.raised,
    controlItemBgActiveHover: tones.wall,
    fontFamily: typefaces.text,
    fontFamilyCode: typefaces.mono,
    // The compact form takes the small size, which is two less, for its base: 13.
    fontSize: 15,
    borderRadius: 0,
    borderRadiusLG: 0,
    borderRadiusSM: 0,
    borderRadiusXS: 0,
    boxShadow: "none",
    boxShadowSecondary: `0 0 0 1px ${tones.hairline}`,
    boxShadowTertiary: "none",
    wireframe: false,
    motionDurationMid: "0.08s",
    motionDurationSlow: "0.12s",
  },
  components: {
    Button: {
      colorPrimary: tones.amber,
      colorPrimaryHover: "#ffc24d",
      colorPrimaryActive: "#e69c0c",
      primaryColor: tones.hairline,
      algorithm: false,
      primaryShadow: "none",
      defaultShadow: "none",
      dangerShadow: "none",
      fontWeight: 500,
    },
    Segmented: { itemSelectedBg: tones.wall, trackBg: tones.room, itemSelectedColor: tones.ink },
    Slider: { handleColor: tones.ink, trackBg: tones.faint, trackHoverBg: tones.ink, railBg: tones.rule },
    // Amber is for what to do next; a switch tells its state by place and brightness.
    Switch: { colorPrimary: tones.faint, colorPrimaryHover: tones.ink, handleBg: tones.room },
    Tabs: {
      horizontalItemGutter: 20,
      horizontalItemPaddingSM: "4px 0 6px",
      itemSelectedColor: tones.ink,
      itemHoverColor: tones.ink,
      itemColor: tones.ink,
      inkBarColor: tones.amber,
    },
    Tree: { nodeSelectedBg: tones.wall, nodeHoverBg: tones.raised },
    Tooltip: { colorBgSpotlight: tones.hairline, colorTextLightSolid: tones.ink },
  },
};
