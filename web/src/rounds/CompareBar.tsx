import { Button, Checkbox, Segmented, Select } from "antd";
import type { ReactNode } from "react";
import type { ProofUp } from "../api/rounds";
import { Stops } from "./Stops";
import type { Compared, Shown } from "./useCompared";
import { gains, type Looking } from "./useLooking";
import styles from "./RoundPage.module.css";

export type Mode = "alone" | "beside" | "wipe" | "flip" | "difference" | "changed";

type Props = {
  proof: ProofUp;
  mode: Mode;
  setMode: (m: Mode) => void;
  compared: Compared;
  /** The same view was up before. */
  before: boolean;
  looking: Looking;
  tools: ReactNode;
};

/** CompareBar is what stands over the pictures: how they are compared, with which, and how they are looked at. */
export function CompareBar({ proof, mode, setMode, compared, before, looking: v, tools }: Props) {
  const none = compared.others.length === 0;
  return (
    <div className={styles.bars}>
      <div className={styles.bar}>
        <Segmented<Mode>
          size="small"
          aria-label="Compare"
          value={mode}
          onChange={setMode}
          options={[
            { value: "alone", label: "Alone" },
            { value: "beside", label: "Side by side", disabled: none },
            { value: "wipe", label: "Wipe", disabled: none },
            { value: "flip", label: "Flip", disabled: none },
            { value: "difference", label: "Difference", disabled: none },
            { value: "changed", label: "Changed", disabled: !before },
          ]}
        />
        {tools}
        <Button size="small" className={styles.scale} onClick={() => v.go(v.scale === 1 ? "fit" : "pixels")}>
          {Math.round(v.scale * 100)} %
        </Button>
      </div>
      {mode !== "changed" && (
        <div className={styles.bar}>
          {proof.passes.length > 1 && (
            <Segmented
              size="small"
              aria-label="Picture of the proof"
              value={v.pass || proof.passes[0]!.key}
              onChange={v.setPass}
              options={proof.passes.map((p) => ({ value: p.key, label: p.title }))}
            />
          )}
          <Select
            mode="multiple"
            showSearch
            optionFilterProp="label"
            size="small"
            className={styles.with}
            popupMatchSelectWidth={420}
            aria-label="Compare with"
            placeholder={none ? "compare with another picture" : `with ${compared.others[0]!.words}`}
            value={compared.chosen}
            maxTagCount="responsive"
            options={compared.groups}
            onChange={compared.choose}
          />
          {(mode === "wipe" || mode === "difference") && compared.others.length > 1 && (
            <Segmented
              size="small"
              aria-label="The other picture"
              value={v.against}
              onChange={v.setAgainst}
              options={compared.others.map((o, i) => ({ value: i, label: i + 2, title: o.words }))}
            />
          )}
          {mode === "difference" && (
            <Segmented
              size="small"
              aria-label="Gain of the difference"
              value={v.gain}
              onChange={v.setGain}
              options={gains.map((g) => ({ value: g, label: `× ${g}` }))}
            />
          )}
          <span className={styles.exposure}>
            <span className="faint">Exposure</span>
            <Stops label="Exposure" value={v.stops} set={v.setStops} />
            {mode === "beside" && (
              <Checkbox checked={v.free} onChange={(e) => v.setFree(e.target.checked)}>
                each its own
              </Checkbox>
            )}
          </span>
        </div>
      )}
    </div>
  );
}

/** numbered is what a picture is called among several. */
export const numbered = (s: Shown, i: number, all: Shown[]) => (all.length > 2 ? `${i + 1}  ${s.words}` : s.words);
