import { Button, Slider } from "antd";
import { useState } from "react";
import { amountOf, sparksAlone, type RunDetail } from "../api/runs";
import styles from "./ProofPage.module.css";

/** Doubted says what the pass shows that is black where all is well, and whether it is. */
export function Doubted({ run }: { run: RunDetail }) {
  const share = run.deliveries[0]?.denoised?.changedBeyondNoise;
  return (
    <p className={`${styles.told} faint`} data-testid="doubted">
      Bright where denoising changed a pixel by more than its noise explains; white is a fifth of its light or more.
      {share !== undefined && (share < 0.05 ? " No pixel was." : ` ${share.toFixed(1)} % of pixels were.`)}
    </p>
  );
}

/** Denoising says how much of the noise is taken out of what is shown, and what is known of that. */
export function Denoising({ run, amount, set }: { run: RunDetail; amount: number; set: (v: number) => void }) {
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
