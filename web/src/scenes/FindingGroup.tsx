import { LeftOutlined, RightOutlined } from "@ant-design/icons";
import { Button } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/http";
import type { Bench } from "./useBench";
import styles from "./Findings.module.css";

export type Finding = Schemas["Finding"];

const titles: Record<Finding["check"], string> = {
  size: "Unlikely size",
  floats: "Floating",
  sinks: "Sunk in",
  through: "Intersecting",
  coincident: "Coincident faces",
  doubled: "Duplicate parts",
  bare: "No finish",
  open: "Open glass",
  inward: "Inside out",
  inside: "Camera inside a part",
  edge: "Backdrop edge in sight",
  axis: "Lying on its side",
  facets: "Facets visible",
  coarse: "Texture too small",
  vast: "Texture far too large",
  green: "Normal map inverted",
  encoded: "Normal map saved as colour",
  clips: "Clipping",
  dark: "Too dark",
  mirrors: "Reflects nothing",
  faint: "Light without effect",
  sole: "One light does it all",
};

/** How a finding is marked by how sure it is: by shape, not by hue. */
const marks: Record<Finding["sure"], { sign: string; says: string }> = {
  certain: { sign: "■", says: "certain" },
  likely: { sign: "◧", says: "likely a fault" },
  perhaps: { sign: "□", says: "may be intended" },
};

type Props = {
  /** Of one check, worst first. */
  all: Finding[];
  bench: Bench;
  isAside: (f: Finding) => boolean;
  show: (f: Finding) => void;
};

/** FindingGroup is all that one check found: shown one by one, put aside or mended one by one or together. */
export function FindingGroup({ all, bench, isAside, show }: Props) {
  const [wanted, setAt] = useState(0);
  const at = Math.min(wanted, all.length - 1);
  const f = all[at]!;
  const go = (to: number) => {
    setAt(to);
    show(all[to]!);
  };
  const put = (some: Finding[]) =>
    bench.put((now) => {
      // A part that several findings change gets the last change of each.
      const parts = new Map(some.flatMap((x) => x.fix!.changes).map((c) => [c.part, c]));
      const finishes = new Map(some.flatMap((x) => x.fix!.finishes).map((c) => [c.name, c]));
      const file = some.find((x) => x.fix!.file)?.fix!.file;
      return { parts: [...parts.values()], finishes: [...finishes.values()], file: file ?? now.file };
    });
  const setAside = (some: Finding[], aside: boolean) =>
    bench.put((now) => {
      const same = (a: Schemas["Aside"], x: Finding) => a.check === x.check && a.part === x.part && a.other === x.other;
      const others = now.aside.filter((a) => !some.some((x) => same(a, x)));
      return { aside: aside ? [...others, ...some.map(({ check, part, other }) => ({ check, part, other }))] : others };
    });
  const mendable = all.filter((x) => x.fix && !isAside(x));
  return (
    <li className={styles.finding} data-check={f.check}>
      <div className={styles.head}>
        <span title={marks[f.sure].says} aria-label={marks[f.sure].says}>
          {marks[f.sure].sign}
        </span>
        <b>{titles[f.check]}</b>
        {all.length > 1 && (
          <span className={styles.which}>
            <Button
              size="small"
              type="text"
              icon={<LeftOutlined />}
              aria-label={`Previous: ${titles[f.check]}`}
              disabled={at === 0}
              onClick={() => go(at - 1)}
            />
            {at + 1} of {all.length}
            <Button
              size="small"
              type="text"
              icon={<RightOutlined />}
              aria-label={`Next: ${titles[f.check]}`}
              disabled={at === all.length - 1}
              onClick={() => go(at + 1)}
            />
          </span>
        )}
      </div>
      <div>{f.says}</div>
      <div className={styles.actions}>
        <Button size="small" type="text" onClick={() => show(f)}>
          Show me
        </Button>
        <Button size="small" type="text" onClick={() => setAside([f], !isAside(f))}>
          {isAside(f) ? "Not intended" : "Intended"}
        </Button>
        {f.fix && (
          <Button size="small" onClick={() => put([f])}>
            {f.fix.says}
          </Button>
        )}
        {all.length > 1 && !all.every(isAside) && (
          <Button size="small" type="text" onClick={() => setAside(all, true)}>
            All intended
          </Button>
        )}
        {mendable.length > 1 && (
          <Button size="small" onClick={() => put(mendable)}>
            Fix all {mendable.length}
          </Button>
        )}
      </div>
    </li>
  );
}
