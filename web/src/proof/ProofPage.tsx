import { Button, Segmented, Select, Slider, InputNumber, Tooltip } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/http";
import { Where } from "../app/Frame";
import { bytes, clock, commonStart, surfaceWords } from "../shared/words";
import { walls } from "../app/theme";
import {
  amountOf,
  bestOf,
  isClay,
  lookOf,
  plainOf,
  readPixel,
  sparksAlone,
  twinOf,
  useRun,
  useRuns,
  type Look,
  type RunDetail,
} from "./api";
import { Desk } from "./Desk";
import { RunLine } from "./RunLine";
import { Sheet } from "./Sheet";
import { Thumb } from "./Thumb";
import { WipeHandle } from "../shared/WipeHandle";
import bits from "../shared/bits.module.css";
import styles from "./ProofPage.module.css";

export function ProofPage() {
  const id = Number(useParams()["id"]);
  const run = useRun(id);
  if (run.error) return <div className={bits.empty}>{run.error.message}</div>;
  if (!run.data) return <div className={bits.empty}>Opening the proof</div>;
  return <Proof key={id} run={run.data} />;
}

type Mode = "one" | "wipe" | "flip";

function Proof({ run }: { run: RunDetail }) {
  const [query, setQuery] = useSearchParams();
  const own = lookOf(run);
  const pass = run.passes.find((p) => p.key === (query.get("pass") ?? bestOf(run))) ?? run.passes[0]!;
  const [amount, setAmount] = useState(amountOf(run));
  const blends = pass.denoised && !pass.data;
  const mode = (query.get("mode") as Mode | null) ?? "one";
  const [look, setLook] = useState<Look>(own);
  const [wall, setWall] = useState<keyof typeof walls>("mid");
  const [scale, setScale] = useState(1);
  const side = scale > 0.9 ? 0 : 1400; // of the whole picture, or one pixel for another
  const [command, setCommand] = useState({ kind: "fit" as "fit" | "pixels", n: 0 });
  const [wipe, setWipe] = useState(50);
  const [flipped, setFlipped] = useState(false);
  const reading = useReading(run.run.id, pass.key, look, amount);
  const put = (c: Record<string, string | null>) => {
    const q = new URLSearchParams(query);
    for (const [k, v] of Object.entries(c)) {
      if (v === null) q.delete(k);
      else q.set(k, v);
    }
    setQuery(q, { replace: true });
  };

  // Proofs from the same view can be laid over this one.
  const all = useRuns(run.run.job).data?.pages.flatMap((p) => p.runs) ?? [];
  const mates = all.filter(
    (r) =>
      r.id !== run.run.id &&
      r.samples > 0 &&
      r.view === run.run.view &&
      Math.abs(r.width / r.height - run.run.width / run.run.height) < 0.01,
  );
  // A denoised pass is first of all held against the plain one of the same run.
  // A run that is finished and in clay has the other picture in itself.
  const twin = twinOf(run, pass.key);
  const withTwin = twin !== undefined && (query.get("with") ?? "twin") === "twin";
  const chosen = withTwin ? run.run.id : Number(query.get("with") ?? (blends ? run.run.id : mates[0]?.id)) || undefined;
  const itself = chosen === run.run.id;
  const another = useRun(mode === "one" || itself ? undefined : chosen).data;
  const other = itself ? run : another;
  const wanted = withTwin ? twin : itself ? plainOf(pass.key) : pass.key;
  const otherPass = other?.passes.find((p) => p.key === wanted) ?? other?.passes[0];
  const alone = mates.length === 0 && !blends && !twin;
  // Finished for clay, or clay for finished: within the run, or by another of its view.
  const swap = () => {
    if (twin) return put({ pass: twin });
    const mate = mates.find((r) => r.surface !== run.run.surface);
    if (!mate) return;
    put({ mode: "flip", with: String(mate.id) });
    setFlipped(mode !== "flip" || chosen !== mate.id || !flipped);
  };

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLElement && e.target.closest("input, textarea, [role=combobox], [role=slider]"))
        return;
      const at = run.passes.findIndex((p) => p.key === pass.key);
      const to = (i: number) => put({ pass: run.passes[(i + run.passes.length) % run.passes.length]!.key });
      if (e.key === "c" && !e.ctrlKey && !e.metaKey) swap();
      else if (e.key === "f") setFlipped((v) => !v);
      else if (e.key === "w") put({ mode: "wipe" });
      else if (e.key === "0") setCommand((c) => ({ kind: "fit", n: c.n + 1 }));
      else if (e.key === "1") setCommand((c) => ({ kind: "pixels", n: c.n + 1 }));
      else if (e.key === "ArrowRight") to(at + 1);
      else if (e.key === "ArrowLeft") to(at - 1);
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  });

  return (
    <div className={styles.page}>
      <Where title={`${run.run.jobName} ${run.run.number}`}>
        <Link to={`/jobs/${run.run.job}`} className="faint">
          {run.run.jobName}
        </Link>
        <span className="faint">/</span>
        <h1>Proof {run.run.number}</h1>
        <span className={bits.stamp}>{pass.title}</span>
      </Where>
      <section className={styles.middle} aria-label="Picture">
        <div className={styles.bar}>
          <Segmented
            size="small"
            value={mode}
            aria-label="Compare"
            onChange={(m) => put({ mode: m === "one" ? null : m })}
            options={[
              { value: "one", label: "Alone" },
              { value: "wipe", label: "Wipe", disabled: alone },
              { value: "flip", label: "Flip", disabled: alone },
            ]}
          />
          {mode !== "one" && (
            <Select
              size="small"
              style={{ width: 210 }}
              aria-label="Compare with"
              value={withTwin ? "twin" : other?.run.id}
              placeholder="choose a proof"
              options={[
                ...(twin ? [{ value: "twin", label: `itself, ${isClay(pass.key) ? "finished" : "clay"}` }] : []),
                ...(blends ? [{ value: run.run.id, label: "itself, plain" }] : []),
                ...mates.map((r) => ({
                  value: r.id,
                  label: `${r.jobName} ${r.number}, ${surfaceWords[r.surface]}`,
                })),
              ]}
              onChange={(v) => put({ with: String(v) })}
            />
          )}
          {twin && (
            <Tooltip title="Show the other one (C)">
              <Button size="small" onClick={swap}>
                In {isClay(pass.key) ? "own finishes" : "clay"}
              </Button>
            </Tooltip>
          )}
          {twin && !(mode === "wipe" && withTwin) && (
            <Button size="small" onClick={() => put({ mode: "wipe", with: "twin" })}>
              Finished against clay
            </Button>
          )}
          {mode === "flip" && (
            <Tooltip title="Show the other one (F)">
              <Button size="small" onClick={() => setFlipped(!flipped)}>
                Flip
              </Button>
            </Tooltip>
          )}
          <span style={{ marginLeft: "auto" }} className="faint">
            wall
          </span>
          <Segmented
            size="small"
            value={wall}
            aria-label="Wall behind the picture"
            onChange={setWall}
            options={["dark", "mid", "light"]}
          />
          <Tooltip title="Fit (0), single pixels (1), wheel to zoom">
            <Button
              size="small"
              onClick={() => setCommand((c) => ({ kind: scale === 1 ? "fit" : "pixels", n: c.n + 1 }))}
            >
              {(scale * 100).toFixed(0)} %
            </Button>
          </Tooltip>
        </div>
        <Desk
          width={run.run.width}
          height={run.run.height}
          wall={walls[wall]}
          onPoint={reading.point}
          onZoom={setScale}
          command={command}
        >
          <Sheet run={run} pass={pass.key} seen={{ look, amount }} side={side} />
          {other && otherPass && mode !== "one" && (
            <div
              className={styles.over}
              data-testid="over"
              style={
                mode === "wipe" ? { clipPath: `inset(0 0 0 ${wipe}%)` } : { visibility: flipped ? "visible" : "hidden" }
              }
            >
              <Sheet run={other} pass={otherPass.key} seen={{ look, amount }} side={side} />
            </div>
          )}
          {mode === "wipe" && other && <WipeHandle at={wipe} set={setWipe} />}
        </Desk>
        <div className={`${styles.reading} mono`} data-testid="reading">
          {reading.value ? (
            <ReadingLine r={reading.value} data={pass.data} />
          ) : (
            <span className="faint">Point at the picture for its values.</span>
          )}
        </div>
        <PassStrip run={run} chosen={pass.key} choose={(key) => put({ pass: key })} />
      </section>
      <section className={bits.side} aria-label="About this proof">
        <h2>Exposure, for looking only</h2>
        <div className={styles.expose}>
          <Slider
            min={-6}
            max={6}
            step={0.1}
            value={look.ev}
            onChange={(ev) => setLook({ ...look, ev })}
            ariaLabelForHandle="Exposure"
          />
          <InputNumber
            size="small"
            value={look.ev}
            min={-20}
            max={20}
            step={0.1}
            suffix="EV"
            aria-label="Exposure in EV"
            onChange={(v) => v !== null && setLook({ ...look, ev: v })}
          />
        </div>
        <Segmented<Look["display"]>
          block
          size="small"
          value={look.display}
          onChange={(display: Look["display"]) => setLook({ ...look, display })}
          options={[
            { value: "filmic", label: "Filmic" },
            { value: "plain", label: "Plain" },
          ]}
        />
        <Button
          className={styles.asTicket}
          size="small"
          type="text"
          disabled={look.ev === own.ev && look.display === own.display}
          onClick={() => setLook(own)}
        >
          As the ticket says: EV {own.ev.toFixed(1)}, {own.display}
        </Button>
        {blends && <Denoising run={run} amount={amount} set={setAmount} />}
        {pass.denoised && pass.data && <Doubted run={run} />}
        <h2>This picture</h2>
        <RunLine run={run.run} slug={run.slug} link={false} flat />
        {run.saved && (
          <p className={`${styles.told} faint`} data-testid="both-saved">
            Finished and in clay at once: {clock(run.saved.seconds)} less than a run of each,{" "}
            {run.saved.percent.toFixed(0)} % of their time.
          </p>
        )}
        <h2>Delivery</h2>
        <Deliveries run={run} />
      </section>
    </div>
  );
}

/** Doubted says what the pass shows that is black where all is well, and whether it is. */
function Doubted({ run }: { run: RunDetail }) {
  const share = run.deliveries[0]?.denoised?.changedBeyondNoise;
  return (
    <p className={`${styles.told} faint`} data-testid="doubted">
      Bright where taking noise out changed a pixel by more than its noise explains; white is a fifth of its light or
      more.
      {share !== undefined && (share < 0.05 ? " No pixel was." : ` ${share.toFixed(1)} % of pixels were.`)}
    </p>
  );
}

/** PassStrip shows every pass small, to choose one from: by click, or by the arrow keys, Home and End. */
function PassStrip({ run, chosen, choose }: { run: RunDetail; chosen: string; choose: (key: string) => void }) {
  const strip = useRef<HTMLDivElement>(null);
  const going = run.run.state === "running" || run.run.state === "stopping";
  const at = run.passes.findIndex((p) => p.key === chosen);
  const move = (e: React.KeyboardEvent) => {
    const last = run.passes.length - 1;
    const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: last }[e.key];
    const next = to === undefined ? undefined : run.passes[Math.min(last, Math.max(0, to))];
    if (!next) return;
    e.preventDefault();
    choose(next.key);
    (strip.current?.children[run.passes.indexOf(next)] as HTMLElement | undefined)?.focus();
  };
  return (
    <div className={styles.film} role="tablist" aria-label="Passes" ref={strip} onKeyDown={move}>
      {run.passes.map((p) => (
        <button
          key={p.key}
          role="tab"
          aria-selected={p.key === chosen}
          tabIndex={p.key === chosen ? 0 : -1}
          className={p.key === chosen ? `${bits.kept} ${styles.pass} ${bits.chosen}` : `${bits.kept} ${styles.pass}`}
          onClick={() => choose(p.key)}
        >
          {/* While a run goes on, denoising is left for the picture that is looked at. */}
          <Thumb run={run.run} pass={going ? plainOf(p.key) : p.key} />
          <span className="mono">{p.title}</span>
        </button>
      ))}
    </div>
  );
}

/** Deliveries are the files of a run, the newest set first; older ones are kept. */
function Deliveries({ run }: { run: RunDetail }) {
  if (run.deliveries.length === 0)
    return <p className="faint">Files are written when the run is done, or stopped and kept.</p>;
  const nameOf = (path: string) => path.split("/").at(-1)!;
  const start = commonStart(run.deliveries[0]!.files.map((f) => nameOf(f.path)));
  const base = (n: number) => `/api/runs/${run.run.id}/deliveries/${n}`;
  return (
    <>
      {run.deliveries.map((d, i) => (
        <div key={d.number} className={styles.delivered}>
          {run.deliveries.length > 1 && (
            <div className="faint">
              Delivery {d.number}, {new Date(d.created).toLocaleString()}
              {!d.complete && ", before its target"}
            </div>
          )}
          {d.changed.length > 0 && <div className="faint">{d.changed.join("; ")}</div>}
          <Button
            type={i === 0 ? "primary" : "default"}
            block
            href={`${base(d.number)}/delivery.zip`}
            data-testid="zip"
          >
            Download {d.files.length === 1 ? "its file" : `all ${d.files.length} files`}
          </Button>
          {i === 0 && start && (
            <div className="mono faint" title="What the names of all files begin with">
              {start}
            </div>
          )}
          {(i === 0 ? d.files : []).map((f) => (
            <a
              key={f.path}
              className="mono"
              href={`${base(d.number)}/files/${f.path.split("/").map(encodeURIComponent).join("/")}`}
              title={`${nameOf(f.path)}, sha256 ${f.sha256}`}
              download
            >
              {nameOf(f.path).slice(start.length)} <span className="faint">{bytes(f.bytes)}</span>
              {f.valuesLimited > 0 && (
                <span className="faint"> · {f.valuesLimited} values limited to the largest half</span>
              )}
            </a>
          ))}
          {i === 0 && (
            <a className="mono" href={`${base(d.number)}/files/manifest.json`} download>
              manifest.json
            </a>
          )}
        </div>
      ))}
    </>
  );
}

/** Denoising says how much of the noise is taken out of what is shown, and what is known of that. */
function Denoising({ run, amount, set }: { run: RunDetail; amount: number; set: (v: number) => void }) {
  const [held, hold] = useState(amount);
  const own = amountOf(run);
  const told = run.deliveries[0]?.denoised;
  return (
    <>
      <h2>{sparksAlone(run) ? "Sparks" : "Noise"} taken out, for looking only</h2>
      <div className={styles.expose}>
        <Slider
          min={0}
          max={100}
          step={5}
          value={held}
          onChange={hold}
          onChangeComplete={set}
          ariaLabelForHandle="Noise taken out"
        />
        <span className="mono">{held} %</span>
      </div>
      {told && (
        <p className={`${styles.told} faint`} data-testid="denoised">
          Delivered at {told.amount.toFixed(0)} %:{" "}
          {told.noise === undefined ? "" : `noise ${told.noise.toFixed(1)} % left, `}
          {told.changedBeyondNoise.toFixed(1)} % of pixels changed beyond their noise.
        </p>
      )}
      <Button
        className={styles.asTicket}
        size="small"
        type="text"
        disabled={amount === own}
        onClick={() => {
          hold(own);
          set(own);
        }}
      >
        As the ticket says: {own} %
      </Button>
    </>
  );
}

const number = (v: number) => (Math.abs(v) >= 100 ? v.toFixed(1) : v.toFixed(4));

function ReadingLine({ r, data }: { r: Schemas["Reading"]; data: boolean }) {
  return (
    <>
      {r.x}, {r.y}
      {r.values.length <= 4 && ` · ${data ? "value" : "scene-linear"} ${r.values.map(number).join(" ")}`}
      {r.display.length > 0 && ` → shown ${r.display.join(" ")}`} ·{" "}
      {r.part ? `${r.part}, ${r.wears === r.finish ? r.finish : `${r.wears} over ${r.finish}`}` : "nothing met"} ·{" "}
      {r.samples} samples
    </>
  );
}

/** useReading asks what lies under the pointer, at most one question at a time. */
function useReading(run: number, pass: string, look: Look, amount: number) {
  const [value, setValue] = useState<Schemas["Reading"] | null>(null);
  const want = useRef<{ x: number; y: number } | null>(null);
  const busy = useRef(false);
  const ask = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    while (want.current) {
      const p = want.current;
      want.current = null;
      // Outside the computed part there is nothing to read.
      setValue(await readPixel(run, pass, p.x, p.y, look, amount).catch(() => null));
    }
    busy.current = false;
  }, [run, pass, look, amount]);
  const point = useCallback(
    (p: { x: number; y: number } | null) => {
      want.current = p;
      if (p) void ask();
      else setValue(null);
    },
    [ask],
  );
  return { value, point };
}
