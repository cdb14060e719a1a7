import { Button, InputNumber, Segmented, Slider } from "antd";
import { useNavigate } from "react-router";
import { lookOf, type Look, type RunDetail } from "../api/runs";
import { RunLine } from "../shared/proof/RunLine";
import { clock } from "../shared/words";
import { Deliveries } from "./Deliveries";
import { PutUp } from "../shared/proof/PutUp";
import { Denoising, Doubted } from "./Denoising";
import bits from "../shared/bits.module.css";
import styles from "./ProofPage.module.css";

type Props = {
  run: RunDetail;
  pass: RunDetail["passes"][number];
  look: Look;
  onLook: (l: Look) => void;
  amount: number;
  onAmount: (v: number) => void;
};

/** LookPanel is how the picture is looked at, what it is, and its files. */
export function LookPanel({ run, pass, look, onLook, amount, onAmount }: Props) {
  const own = lookOf(run);
  const navigate = useNavigate();
  return (
    <section className={bits.side} aria-label="About this proof">
      <h2>Exposure, for looking only</h2>
      <div className={styles.expose}>
        <Slider
          min={-6}
          max={6}
          step={0.1}
          value={look.ev}
          onChange={(ev) => onLook({ ...look, ev })}
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
          onChange={(v) => v !== null && onLook({ ...look, ev: v })}
        />
      </div>
      <Segmented<Look["display"]>
        block
        size="small"
        value={look.display}
        onChange={(display: Look["display"]) => onLook({ ...look, display })}
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
        onClick={() => onLook(own)}
      >
        As the ticket says: EV {own.ev.toFixed(1)}, {own.display}
      </Button>
      {pass.denoised && !pass.data && <Denoising run={run} amount={amount} set={onAmount} />}
      {pass.denoised && pass.data && <Doubted run={run} />}
      <h2>This picture</h2>
      <RunLine run={run.run} slug={run.slug} link={false} flat />
      {run.saved && (
        <p className={`${styles.told} faint`} data-testid="both-saved">
          Finished and in clay at once: {clock(run.saved.seconds)} less than a run of each,{" "}
          {run.saved.percent.toFixed(0)} % of their time.
        </p>
      )}
      <PutUp run={run} pass={pass} block />
      <Button className={styles.asTicket} block onClick={() => navigate(`/runs/${run.run.id}/noise`)}>
        Noise report, or make it cleaner
      </Button>
      <h2>Delivery</h2>
      <Deliveries run={run} />
    </section>
  );
}
