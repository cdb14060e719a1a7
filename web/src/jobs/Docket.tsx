import { Collapse } from "antd";
import { useState, type ReactNode } from "react";
import type { Ticket } from "../api/http";
import type { SceneBody } from "../api/scenes";
import { useEditing } from "../shared/Field";
import { count } from "../shared/words";
import type { SectionProps } from "./props";
import { OutputBody, PassesBody, QualityBody, StageBody, SurfaceBody, ViewBody } from "./sections";
import styles from "./Docket.module.css";

type Section = {
  key: keyof Ticket;
  title: string;
  /** What stands in bold, and the line under it. */
  line: (t: Ticket, p: SectionProps) => [ReactNode, ReactNode];
  body: (p: SectionProps) => ReactNode;
};

const presetWords: Record<string, string> = {
  scout: "Scout",
  check: "Check",
  proof: "Proof",
  press: "Press",
  own: "Own",
};

function denoiseWord(d: Ticket["quality"]["denoise"]): string {
  if (!d.on) return "";
  return d.take === "sparks" ? "sparks out" : "denoised";
}

/** Lamps of the stage are lights, not parts of the product. */
function finishesOf(scene: SceneBody): string {
  const parts = scene.parts.filter((q) => !q.lamp);
  return `${count(new Set(parts.map((q) => q.finish)).size, "finish", "finishes")} on ${count(parts.length, "part")}`;
}

const toneOf = (c: Ticket["surface"]["clay"]) => (c.toneAs === "shown" ? `${c.shown} of 255` : c.tone);

const clayLightWords: Record<Ticket["surface"]["clay"]["light"], string> = {
  stage: "",
  colourless: "light without colour",
  even: "even light",
};

/** inOneLine is what there is to say, with dots between. */
const inOneLine = (...words: (string | false | 0 | undefined)[]) => words.filter(Boolean).join(" · ");

function surroundOf({ on, kind, sun, picture, strength }: Ticket["stage"]["surround"]): string {
  if (!on) return "surround off";
  return `surround ${kind === "sky" ? `sky, sun at ${sun}°` : picture.name || "even tone"} × ${strength}`;
}

const variantOf = (t: Ticket): string => (t.surface.variant ? ` · ${t.surface.variant}` : "");

function shapesOf(t: Ticket): string {
  const n = t.surface.shapes.filter((r) => r.levels > 0).length;
  return n === 0 ? "" : count(n, "rule subdivides", "rules subdivide");
}

const sections: Section[] = [
  {
    key: "view",
    title: "View",
    line: (t, p) => [
      <>
        {t.view.name || p.scene.views[0]?.name}
        {p.scene.views.find((v) => v.name === t.view.name)?.locked && <span className="faint"> · locked</span>}
      </>,
      inOneLine(
        `${t.view.width} × ${t.view.height} px`,
        `${t.view.scale} %`,
        t.view.region.on && "region",
        t.view.lens.on && `f/${t.view.lens.fStop}`,
        t.view.motion.animation && `at ${t.view.motion.moment} s`,
        `EV ${t.view.exposure.toFixed(1)}`,
      ),
    ],
    body: (p) => <ViewBody {...p} />,
  },
  {
    key: "stage",
    title: "Stage",
    line: (t, p) => {
      const off = t.stage.lights.filter((l) => !l.on).length;
      return [
        `${p.scene.lamps.length - off} of ${p.scene.lamps.length} lights`,
        inOneLine(
          surroundOf(t.stage.surround),
          `backing ${t.stage.backing}`,
          t.stage.catcher.on && "floor catches shadows",
        ),
      ];
    },
    body: (p) => <StageBody {...p} />,
  },
  {
    key: "surface",
    title: "Surface",
    line: (t, p) =>
      t.surface.mode !== "own"
        ? [
            `${t.surface.mode === "both" ? "Finished and clay" : "Clay"}${variantOf(t)}`,
            inOneLine(
              `keeps ${p.outlook?.kept ?? "…"} of ${p.outlook?.clay.length ?? p.scene.parts.length} parts`,
              `tone ${toneOf(t.surface.clay)}`,
              t.surface.clay.lines && "edge lines",
              clayLightWords[t.surface.clay.light],
              shapesOf(t),
            ),
          ]
        : [`Own finishes${variantOf(t)}`, inOneLine(finishesOf(p.scene), shapesOf(t))],
    body: (p) => <SurfaceBody {...p} />,
  },
  {
    key: "quality",
    title: "Quality",
    line: (t) => [
      presetWords[t.quality.preset],
      inOneLine(
        `${t.quality.noise} %`,
        `${t.quality.least}–${t.quality.most} samples`,
        t.quality.clamp && `clamp ${t.quality.clamp}`,
        denoiseWord(t.quality.denoise),
      ),
    ],
    body: (p) => <QualityBody {...p} />,
  },
  {
    key: "passes",
    title: "Passes",
    line: (t, p) => {
      const names = [
        t.quality.denoise.on ? "beauty plain and denoised" : "beauty",
        t.surface.mode === "both" && "clay",
        t.quality.denoise.on && "changed by denoising",
        t.passes.occlusion.on && "occlusion",
        t.passes.lights && "lights apart",
        t.passes.finishMasks && "finish masks",
        t.passes.partMasks && "part masks",
        t.passes.idMattes && "ID mattes",
        t.passes.normal && "normals",
        t.passes.depth && "depth",
        t.passes.motion && "motion vectors",
        t.passes.shadow && t.stage.catcher.on && "caught shadow",
      ].filter(Boolean);
      return [
        `${p.outlook?.passes.length ?? names.length} ${p.outlook?.passes.length === 1 ? "pass" : "passes"}`,
        names.join(", "),
      ];
    },
    body: (p) => <PassesBody {...p} />,
  },
  {
    key: "output",
    title: "Output",
    line: (t, p) => [
      [
        t.output.exr &&
          `EXR ${t.output.depth}, ${{ one: "one file", multipart: "one multi-part file" }[t.output.layers] ?? "a file each"}`,
        t.output.png !== "none" && `PNG ${t.output.png}`,
      ]
        .filter(Boolean)
        .join(" · ") || "nothing",
      `${p.outlook?.files.length ?? "…"} ${p.outlook?.files.length === 1 ? "file" : "files"}`,
    ],
    body: (p) => <OutputBody {...p} />,
  },
];

/** Docket is the ticket: six numbered sections, folded to a summary, one or more open. */
export function Docket(p: SectionProps) {
  const { ticket, faults } = useEditing();
  const [open, setOpen] = useState<string[]>(["surface"]);
  return (
    <Collapse
      className={styles.docket}
      ghost
      activeKey={open}
      onChange={(keys) => setOpen([keys].flat())}
      items={sections.map((s, i) => {
        const [bold, line] = s.line(ticket, p);
        const wrong = faults.some((f) => f.path === s.key || f.path.startsWith(`${s.key}.`));
        return {
          key: s.key,
          showArrow: false,
          label: (
            <span className={styles.head}>
              <span className={styles.numeral}>{i + 1}</span>
              <span className={styles.title}>{s.title}</span>
              <b>{bold}</b>
              <span className={styles.line}>{line}</span>
              {wrong && <span className={styles.fault}>has a fault</span>}
            </span>
          ),
          children: s.body(p),
        };
      })}
    />
  );
}
