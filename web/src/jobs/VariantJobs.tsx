import { App, Checkbox, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../api/http";
import { staleRuns } from "../api/runs";
import { count } from "../shared/words";
import { makeVariants } from "../api/jobs";
import styles from "./VariantJobs.module.css";

/** VariantJobs makes jobs like one, for variants of its scene. */
export function VariantJobs(p: { job: number; variants: string[]; close: () => void }) {
  const [chosen, setChosen] = useState(p.variants);
  const [run, setRun] = useState(false);
  const { message } = App.useApp();
  const go = useNavigate();
  const make = useChange(makeVariants, [["jobs"], ...staleRuns]);
  return (
    <Modal
      open
      title="A job for each variant"
      okText={`Make ${count(chosen.length, "job")}`}
      okButtonProps={{ disabled: chosen.length === 0, loading: make.isPending }}
      onCancel={p.close}
      onOk={() =>
        make.mutate(
          { id: p.job, variants: chosen, run },
          {
            onSuccess: (made) => {
              p.close();
              void message.success(`${count((made ?? []).length, "job")} made${run ? " and queued" : ""}`);
              void go("/jobs");
            },
            onError: (e) => void message.error(e.message),
          },
        )
      }
    >
      <div className={styles.list}>
        <Checkbox.Group
          className={styles.list}
          value={chosen}
          options={p.variants.map((v) => ({ value: v, label: v }))}
          onChange={(v) => setChosen(p.variants.filter((n) => v.includes(n)))}
        />
        <Checkbox checked={run} onChange={(e) => setRun(e.target.checked)}>
          Queue a run of each at once
        </Checkbox>
      </div>
    </Modal>
  );
}
