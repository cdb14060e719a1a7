import { App, Button, Segmented } from "antd";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { isGoing, useLive } from "../api/live";
import { useCourse, useNoiseMap, type Area } from "../api/noise";
import { useOfProject } from "../api/projects";
import { bestOf, useRun, type RunDetail } from "../api/runs";
import { Desk, fit, type Zoom } from "../shared/proof/Desk";
import { RunLine } from "../shared/proof/RunLine";
import { Sheet } from "../shared/proof/Sheet";
import { usePicture } from "../shared/proof/usePicture";
import { useAddress } from "../shared/useAddress";
import { AreaCatcher } from "../shared/viewer/AreaCatcher";
import { Where } from "../shared/Where";
import { count } from "../shared/words";
import { Beside } from "./Beside";
import { CourseCurve } from "./CourseCurve";
import { GoOn } from "./GoOn";
import { MapOver } from "./MapOver";
import { NoiseSources } from "./NoiseSources";
import { savePicture } from "./savePicture";
import { said, summary, worst, type Cell, type Summary } from "./tiles";
import { WorstPlaces } from "./WorstPlaces";
import bits from "../shared/bits.module.css";
import styles from "./NoisePage.module.css";

export function NoisePage() {
  const id = Number(useParams()["id"]);
  const run = useRun(id);
  if (run.error) return <div className={bits.empty}>{run.error.message}</div>;
  if (!run.data) return <div className={bits.empty}>Opening the noise report</div>;
  return <Report key={id} run={run.data} />;
}

/** How much of a place is shown when it is looked at: times the whole picture. */
const near = 6;

function Report({ run }: { run: RunDetail }) {
  useOfProject(run.run.project);
  const { message } = App.useApp();
  const [query, put] = useAddress();
  const live = useLive((s) => s.runs[run.run.id]);
  const going = isGoing(live?.state ?? run.run.state);
  const map = useNoiseMap(run, going);
  const course = useCourse(run, going);
  const [zoom, setZoom] = useState<Zoom>(fit);
  const [drawing, setDrawing] = useState(false);
  const { width, height } = run.run;
  const area = areaFrom(query.get("area"), width, height);
  const pass = going ? "beauty" : bestOf(run);
  const shown = query.get("show") !== "picture";
  const told = useMemo(() => map.data && summary(map.data), [map.data]);
  const places = useMemo(() => (map.data ? worst(map.data) : []), [map.data]);
  const reference = map.data?.target || told?.frame || 0;
  const side = zoom.k > 1 && !going ? 0 : 1400;
  const picture = usePicture(run, pass, side);
  const version = `${run.run.samples} ${live?.picture ?? ""}`;
  const pick = (a: [number, number, number, number]) => {
    const px = [Math.floor(a[0] * width), Math.floor(a[1] * height), Math.ceil(a[2] * width), Math.ceil(a[3] * height)];
    put({ area: px.join(",") });
    setDrawing(false);
  };
  const look = (c: Cell) => {
    const box = document.querySelector("[data-testid=report-picture]")!.getBoundingClientRect();
    const scale = Math.min((box.width - 84) / width, (box.height - 44) / height) * near;
    const [x, y] = [(c.area[0] + c.area[2]) / 2, (c.area[1] + c.area[3]) / 2];
    setZoom({ k: near, x: (width / 2 - x) * scale, y: (height / 2 - y) * scale });
  };
  return (
    <div className={styles.page}>
      <Where title={`Noise of ${run.run.jobName} ${run.run.number}`}>
        <Link to={`/jobs/${run.run.job}`} className="faint">
          {run.run.jobName}
        </Link>
        <span className="faint">/</span>
        <Link to={`/runs/${run.run.id}`} className="faint">
          Proof {run.run.number}
        </Link>
        <span className="faint">/</span>
        <h1>Noise</h1>
      </Where>
      <section className={styles.middle} aria-label="Picture">
        <div className={styles.bar}>
          <Segmented
            size="small"
            value={shown ? "map" : "picture"}
            aria-label="What is shown"
            onChange={(v) => put({ show: v === "map" ? null : v })}
            options={[
              { value: "map", label: "Noise over the picture" },
              { value: "picture", label: "Picture alone" },
            ]}
          />
          <Button size="small" type={drawing ? "primary" : "default"} onClick={() => setDrawing(!drawing)}>
            {drawing ? "Draw it in the picture" : area ? "Another area" : "Choose an area"}
          </Button>
          {area && (
            <>
              <span className="mono" data-testid="area-of">
                {area[2] - area[0]} × {area[3] - area[1]} px
              </span>
              <Button size="small" type="text" onClick={() => put({ area: null })}>
                The whole picture
              </Button>
            </>
          )}
          <span className={styles.tools}>
            <Button size="small" onClick={() => setZoom(fit)} disabled={zoom === fit}>
              Fit
            </Button>
            <Button size="small" href={`/api/runs/${run.run.id}/noise.csv`} download>
              CSV
            </Button>
            <Button
              size="small"
              disabled={!map.data}
              onClick={() =>
                savePicture(run, pass, version, map.data!, reference).catch((e: Error) => void message.error(e.message))
              }
            >
              PNG
            </Button>
          </span>
        </div>
        <div className={styles.picture} data-testid="report-picture">
          <Desk width={width} height={height} lock={{ zoom, set: setZoom }}>
            <Sheet run={run} pass={pass} side={side} id="picture" />
            {shown && map.data && <MapOver map={map.data} reference={reference} />}
            {drawing ? (
              <AreaCatcher area={area && shares(area, width, height)} pick={pick} />
            ) : (
              area && <Drawn area={shares(area, width, height)} />
            )}
          </Desk>
        </div>
        <WorstPlaces run={run} url={picture.shown?.url} places={places} look={look} />
      </section>
      <section className={bits.side} aria-label="About the noise">
        <RunLine run={run.run} slug={run.slug} link={false} flat />
        <Headline told={told} target={run.resolved.ticket.quality.noise} pending={map.isPending} />
        {map.error && (
          <div className={bits.notice} role="alert">
            {map.error.message}
          </div>
        )}
        <h2>How it fell</h2>
        {course.data && <CourseCurve course={course.data} />}
        <NoiseSources run={run} area={area} />
        <Beside
          run={run}
          other={Number(query.get("beside")) || undefined}
          choose={(id) => put({ beside: id === undefined ? null : String(id) })}
        />
        {(run.run.state === "done" || run.run.state === "kept") && <GoOn run={run} area={area} />}
      </section>
    </div>
  );
}

/** Headline says how noisy the picture is, and where its target stands. */
function Headline({ told, target, pending }: { told: Summary | undefined; target: number; pending: boolean }) {
  if (!told)
    return <p className="faint">{pending ? "Measuring the noise" : "Too few samples yet for the noise to be told."}</p>;
  return (
    <div className={styles.headline} data-testid="noise-told">
      <b>{said(told.frame)} %</b>
      <span>
        {target > 0 ? `of display white; target ${target} %. ` : "of display white. "}
        {target > 0 &&
          (told.above > 0
            ? `${count(told.above, "tile")} of ${told.tiles} above it, `
            : `All ${told.tiles} tiles below it, `)}
        {target > 0 ? "the noisiest" : "The noisiest tile"} {said(told.most)} %.
      </span>
    </div>
  );
}

function Drawn({ area: [l, t, r, b] }: { area: [number, number, number, number] }) {
  const p = (v: number) => `${100 * v}%`;
  return <span className={styles.area} style={{ left: p(l), top: p(t), width: p(r - l), height: p(b - t) }} />;
}

/** shares is an area in shares of the frame. */
const shares = (a: Area, width: number, height: number): Area => [
  a[0] / width,
  a[1] / height,
  a[2] / width,
  a[3] / height,
];

/** areaFrom reads an area of the address; what is none is left out. */
function areaFrom(said: string | null, width: number, height: number): Area | null {
  const n = (said ?? "").split(",").map(Number);
  if (n.length !== 4 || !n.every(Number.isInteger)) return null;
  const [l, t, r, b] = n as Area;
  const held: Area = [Math.max(0, l), Math.max(0, t), Math.min(width, r), Math.min(height, b)];
  return held[0] < held[2] && held[1] < held[3] ? held : null;
}
