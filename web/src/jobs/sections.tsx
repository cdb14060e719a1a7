import { Button, Segmented, Select } from "antd";
import { useState } from "react";
import { FromLibrary } from "../shared/FromLibrary";
import { ColourRow } from "../shared/ColourRow";
import { Field, Row, useEditing } from "../shared/Field";
import { PictureSelect } from "../shared/PictureSelect";
import { SettingRow } from "../shared/SettingRow";
import { SurroundSelect } from "../shared/SurroundSelect";
import { useSettings } from "../api/jobs";
import type { SectionProps } from "./props";
import { CatcherParts } from "./CatcherParts";
import { ClayRows, Crevices, EdgeLines } from "./ClayRows";
import { CropRows } from "./CropRows";
import { KeepRules } from "./KeepRules";
import { LampRows } from "./LampRows";
import { MotionRows } from "./MotionRows";
import { Deadline } from "./Deadline";
import { QualityCurve } from "./QualityCurve";
import { ClayLight } from "./ClayLight";
import { ShapeRules } from "./ShapeRules";
import { TakenPlan } from "./TakenPlan";
import styles from "./sections.module.css";

/** Frame sizes that are asked for again and again. */
const sizes: [string, number, number][] = [
  ["Square master", 1600, 1600],
  ["Upright 4:5", 1080, 1350],
  ["HD wide", 1920, 1080],
  ["4K wide", 3840, 2160],
  ["A4 upright, 300 dpi", 2480, 3508],
  ["Banner 2:1", 2400, 1200],
];

export function ViewBody({ scene, outlook }: SectionProps) {
  const { ticket, set, faults } = useEditing();
  const v = ticket.view;
  const preset = sizes.find(([, w, h]) => w === v.width && h === v.height)?.[0];
  return (
    <>
      <Row
        label="View"
        help="Which saved view is rendered. Views are made on the scene's page."
        fault={faults.find((f) => f.path === "view.name")?.message}
      >
        <Select
          size="small"
          value={v.name}
          options={scene.views.map((w) => ({ value: w.name, label: w.name }))}
          onChange={(n) => set("view.name", n)}
          aria-label="View"
        />
      </Row>
      <Row label="Frame size" help="Common sizes; any other can be typed below.">
        <Select
          size="small"
          value={preset ?? "own size"}
          options={sizes.map(([n, w, h]) => ({ value: n, label: `${n}, ${w} × ${h}` }))}
          aria-label="Frame size"
          onChange={(n) => {
            const s = sizes.find(([name]) => name === n)!;
            set("view", { ...v, width: s[1], height: s[2] });
          }}
        />
      </Row>
      <Field path="view.width" />
      <Field path="view.height" />
      <Field path="view.scale" />
      {v.scale !== 100 && outlook && (
        <Row label="Rendered size">
          {outlook.width} × {outlook.height} px
        </Row>
      )}
      <Field path="view.region.on" />
      {v.region.on && (
        <>
          <Field path="view.region.x" />
          <Field path="view.region.y" />
          <Field path="view.region.width" />
          <Field path="view.region.height" />
        </>
      )}
      <Field path="view.lens.on" />
      {v.lens.on && (
        <>
          <Field path="view.lens.fStop" />
          <Field path="view.lens.by" />
          {v.lens.by === "distance" ? (
            <Field path="view.lens.distance" />
          ) : (
            <>
              <Field path="view.lens.x" />
              <Field path="view.lens.y" />
            </>
          )}
          <Field path="view.lens.blades" />
          {v.lens.blades > 2 && <Field path="view.lens.bladeTurn" />}
        </>
      )}
      {scene.animations.length > 0 && <MotionRows scene={scene} />}
      <Field path="view.exposure" />
      <Field path="view.display" />
    </>
  );
}

export function StageBody({ scene }: SectionProps) {
  const { ticket, set, faults } = useEditing();
  const su = ticket.stage.surround;
  return (
    <>
      {scene.lamps.map((lamp) => (
        <LampRows key={lamp.name} lamp={lamp} />
      ))}
      <Field path="stage.surround.on" />
      {su.on && (
        <>
          <Field path="stage.surround.kind" />
          {su.kind === "sky" ? (
            <>
              <Field path="stage.surround.sun" />
              <Field path="stage.surround.haze" />
              <Field path="stage.surround.turn" />
            </>
          ) : (
            <>
              <SurroundSelect picture={su.picture} set={(p) => set("stage.surround.picture", p)} />
              {su.picture.name === "" ? <Field path="stage.surround.tone" /> : <Field path="stage.surround.turn" />}
            </>
          )}
          <Field path="stage.surround.strength" />
        </>
      )}
      <Field path="stage.backing" />
      {ticket.stage.backing === "tone" && <Field path="stage.backingTone" />}
      {ticket.stage.backing === "shown" && <Field path="stage.shown" />}
      {ticket.stage.backing === "picture" && ticket.stage.plate && (
        <>
          <Row
            label="Picture"
            help="Scaled to fill the frame; the excess is cropped."
            fault={faults.find((f) => f.path === "stage.plate")?.message}
          >
            <PictureSelect
              label="Picture behind"
              picture={ticket.stage.plate.picture}
              set={(picture) => set("stage.plate", { ...ticket.stage.plate!, picture })}
            />
          </Row>
          <SettingRow
            path="stage.plate.strength"
            values={[ticket.stage.plate.strength]}
            set={(v) => set("stage.plate", { ...ticket.stage.plate!, strength: Number(v) })}
          />
        </>
      )}
      {ticket.stage.backing === "gradient" && ticket.stage.gradient && (
        <>
          {(["top", "foot"] as const).map((end) => (
            <ColourRow
              key={end}
              label={end === "top" ? "Top" : "Foot"}
              value={ticket.stage.gradient![end]}
              set={(c) => set("stage.gradient", { ...ticket.stage.gradient!, [end]: c })}
            />
          ))}
          {(["strength", "turn"] as const).map((key) => (
            <SettingRow
              key={key}
              path={`stage.gradient.${key}`}
              values={[ticket.stage.gradient![key]]}
              set={(v) => set("stage.gradient", { ...ticket.stage.gradient!, [key]: v })}
            />
          ))}
        </>
      )}
      <Field path="stage.catcher.on" />
      {ticket.stage.catcher.on && <CatcherParts scene={scene} />}
    </>
  );
}

export function SurfaceBody(p: SectionProps) {
  const { ticket, set, faults } = useEditing();
  const [taken, setTaken] = useState(false); // a plan from the library
  return (
    <>
      <Field path="surface.mode" />
      {(p.scene.variants.length > 0 || ticket.surface.variant) && (
        <Row
          label="Variant"
          help="Another look of the product, as the scene has it."
          fault={faults.find((f) => f.path === "surface.variant")?.message}
        >
          <Select
            size="small"
            aria-label="Variant"
            value={ticket.surface.variant ?? ""}
            options={[{ value: "", label: "as it stands" }, ...p.scene.variants.map((v) => ({ value: v, label: v }))]}
            onChange={(v) => set("surface.variant", v)}
          />
        </Row>
      )}
      {ticket.surface.mode !== "own" && (
        <>
          <FromLibrary
            kind="clay"
            what="clay plan"
            body={ticket.surface.clay}
            take={(plan) => {
              set("surface.clay", plan);
              setTaken(true);
            }}
          />
          {taken && <TakenPlan scene={p.scene} outlook={p.outlook} close={() => setTaken(false)} />}
          <KeepRules {...p} />
          <ClayRows />
          <Crevices scene={p.scene} outlook={p.outlook} />
          <EdgeLines />
          <ClayLight run={p.clayRun} />
        </>
      )}
      <ShapeRules {...p} />
    </>
  );
}

export function QualityBody({ forecast }: SectionProps) {
  const { ticket, set } = useEditing();
  const { data } = useSettings();
  const [more, setMore] = useState(false);
  const q = ticket.quality;
  const preset = data?.presets.find((p) => p.key === q.preset);
  return (
    <>
      <Row label="Preset" help={preset?.help ?? "Numbers of your own."} wide>
        <Segmented
          size="small"
          block
          value={q.preset}
          aria-label="Quality preset"
          options={(data?.presets ?? []).map((p) => ({ value: p.key, label: p.title }))}
          onChange={(k) => {
            const chosen = data!.presets.find((p) => p.key === k)!;
            set("quality", { ...chosen.quality, seed: q.seed, denoise: q.denoise });
          }}
        />
      </Row>
      <FromLibrary
        kind="quality"
        what="quality"
        body={q}
        take={(kept) => {
          const own = kept as typeof q;
          // Kept before there was denoising, it says nothing of it.
          set("quality", { ...own, seed: q.seed, denoise: own.denoise ?? q.denoise });
        }}
      />
      {forecast && <QualityCurve forecast={forecast} target={q.noise} set={(n) => set("quality.noise", n)} />}
      {forecast && <Deadline forecast={forecast} />}
      <Field path="quality.noise" />
      <Field path="quality.least" />
      <Field path="quality.most" />
      <Field path="quality.clamp" />
      <Field path="quality.denoise.on" />
      {q.denoise.on && <Field path="quality.denoise.take" />}
      {q.denoise.on && <Field path="quality.denoise.amount" />}
      <Button size="small" type="text" onClick={() => setMore(!more)} aria-expanded={more}>
        {more ? "Fewer settings" : "Bounces, samples, filter, seed"}
      </Button>
      {more && (
        <>
          <Field path="quality.diffuse" />
          <Field path="quality.glossy" />
          <Field path="quality.clear" />
          <Field path="quality.diffuseSamples" />
          <Field path="quality.glossySamples" />
          <Field path="quality.clearSamples" />
          <Field path="quality.filter" />
          <Field path="quality.filterWidth" />
          <Field path="quality.seed" />
          <Field path="quality.clearShadows" />
        </>
      )}
    </>
  );
}

export function PassesBody({ scene }: SectionProps) {
  const { ticket } = useEditing();
  return (
    <>
      <Field path="passes.lights" />
      <Field path="passes.occlusion.on" />
      {ticket.passes.occlusion.on && (
        <>
          <Field path="passes.occlusion.reach" />
          <Field path="passes.occlusion.samples" />
          <Field path="passes.occlusion.through" />
        </>
      )}
      <Field path="passes.finishMasks" />
      <Field path="passes.partMasks" />
      <Field path="passes.idMattes" />
      <Field path="passes.masksThrough" />
      <Field path="passes.normal" />
      <Field path="passes.depth" />
      {scene.animations.length > 0 && <Field path="passes.motion" />}
      {ticket.stage.catcher.on && <Field path="passes.shadow" />}
    </>
  );
}

export function OutputBody(p: SectionProps) {
  const { outlook } = p;
  const { ticket } = useEditing();
  return (
    <>
      <Field path="output.exr" />
      {ticket.output.exr && (
        <>
          <Field path="output.layers" />
          <Field path="output.depth" />
          <Field path="output.compression" />
          <Field path="output.primaries" />
        </>
      )}
      <Field path="output.png" />
      <CropRows {...p} />
      <Field path="output.name" wide />
      <div className={`${styles.files} mono`} aria-label="Files this run will deliver">
        {outlook?.files.slice(0, 6).map((f) => (
          <div key={f.path}>{f.path}</div>
        ))}
        {(outlook?.files.length ?? 0) > 6 && <div className="faint">and {outlook!.files.length - 6} more</div>}
      </div>
    </>
  );
}
