import { Button, Segmented, Select, Tooltip } from "antd";
import { isClay, type RunDetail } from "../api/runs";
import { surfaceWords } from "../shared/words";
import { walls } from "../shared/tones";
import type { PassGroup } from "./passGroups";
import type { Compared, Mode } from "./useCompared";
import styles from "./ProofPage.module.css";

type Pass = RunDetail["passes"][number];
type Props = {
  run: RunDetail;
  pass: Pass;
  /** The pass with those that are read off the same picture. */
  group: PassGroup;
  compared: Compared;
  mode: Mode;
  /** Changes the address. */
  put: (c: Record<string, string | null>) => void;
  swap: () => void;
  flip: () => void;
  wall: keyof typeof walls;
  onWall: (w: keyof typeof walls) => void;
  /** Pixels of the screen per pixel of the picture; a press goes between fit and single pixels. */
  scale: number;
  onScale: () => void;
};

const kindOf = (p: Pass) => (!p.denoised ? "Plain" : p.data ? "Changed" : "Denoised");

/** CompareBar is what stands over the picture: which one, compared with what, on which wall, how large. */
export function CompareBar(p: Props) {
  const { run, pass, group, compared: c, mode, put } = p;
  return (
    <div className={styles.bar}>
      {group.passes.length > 1 && (
        <Segmented
          size="small"
          value={pass.key}
          aria-label="Plain or denoised"
          onChange={(key) => put({ pass: key })}
          options={group.passes.map((q) => ({ value: q.key, label: kindOf(q), title: q.title }))}
        />
      )}
      <Segmented
        size="small"
        value={mode}
        aria-label="Compare"
        onChange={(m) => put({ mode: m === "one" ? null : m })}
        options={[
          { value: "one", label: "Alone" },
          { value: "wipe", label: "Wipe", disabled: c.alone },
          { value: "flip", label: "Flip", disabled: c.alone },
        ]}
      />
      {mode !== "one" && (
        <Select
          size="small"
          style={{ width: 190 }}
          aria-label="Compare with"
          value={c.withTwin ? "twin" : c.other?.run.id}
          placeholder="choose a proof"
          options={[
            ...(c.twin ? [{ value: "twin", label: `itself, ${isClay(pass.key) ? "finished" : "clay"}` }] : []),
            ...(c.blends ? [{ value: run.run.id, label: "itself, plain" }] : []),
            ...c.mates.map((r) => ({ value: r.id, label: `${r.jobName} ${r.number}, ${surfaceWords[r.surface]}` })),
          ]}
          onChange={(v) => put({ with: String(v) })}
        />
      )}
      {c.twin && (
        <Tooltip title="Show the other one (C)">
          <Button size="small" onClick={p.swap}>
            In {isClay(pass.key) ? "own finishes" : "clay"}
          </Button>
        </Tooltip>
      )}
      {c.twin && !(mode === "wipe" && c.withTwin) && (
        <Button size="small" onClick={() => put({ mode: "wipe", with: "twin" })}>
          Finished against clay
        </Button>
      )}
      {mode === "flip" && (
        <Tooltip title="Show the other one (F)">
          <Button size="small" onClick={p.flip}>
            Flip
          </Button>
        </Tooltip>
      )}
      <span style={{ marginLeft: "auto" }} className="faint">
        wall
      </span>
      <Segmented
        size="small"
        value={p.wall}
        aria-label="Wall behind the picture"
        onChange={p.onWall}
        options={["dark", "mid", "light"]}
      />
      <Tooltip title="Fit (0), single pixels (1), wheel to zoom">
        <Button size="small" onClick={p.onScale}>
          {(p.scale * 100).toFixed(0)} %
        </Button>
      </Tooltip>
    </div>
  );
}
