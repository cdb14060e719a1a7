import { Button, Select } from "antd";
import { useState } from "react";
import { auditFile, useAudit, type AuditChoice, type Deed } from "../api/doors";
import { usePeople } from "../api/projects";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./ProjectPage.module.css";

/** words say an operation as people do: save-ticket is save ticket. */
const words = (did: string) => did.replaceAll("-", " ");

const outcome = (status: number) => (status < 400 ? "" : status === 403 || status === 404 ? "refused" : "failed");

/** Audit is who did what in a project, the newest first. */
export function Audit({ project }: { project: number }) {
  const people = usePeople(project).data ?? [];
  const [choice, setChoice] = useState<AuditChoice>({ project, person: 0, did: "", before: 0 });
  const lines = useAudit(choice);
  const all = lines.data ?? [];
  const put = (c: Partial<AuditChoice>) => setChoice({ ...choice, before: 0, ...c });
  const dids = [...new Set(all.map((d) => d.did))].sort();
  return (
    <>
      <div className={styles.choose}>
        <Select
          size="small"
          aria-label="Person"
          value={choice.person}
          onChange={(person: number) => put({ person })}
          options={[{ value: 0, label: "All people" }, ...people.map((p) => ({ value: p.id, label: p.name }))]}
        />
        <Select
          size="small"
          aria-label="Action"
          value={choice.did}
          onChange={(did: string) => put({ did })}
          options={[{ value: "", label: "All actions" }, ...dids.map((value) => ({ value, label: words(value) }))]}
        />
        <a href={auditFile(choice)} download>
          Export CSV
        </a>
      </div>
      {lines.error && (
        <div className={bits.notice} role="alert">
          {lines.error.message}
        </div>
      )}
      {lines.data?.length === 0 && <p className="faint">No entry matches.</p>}
      {all.map((d) => (
        <Line key={d.id} deed={d} />
      ))}
      <div className={`${styles.choose} ${lists.more}`}>
        {choice.before > 0 && (
          <Button size="small" onClick={() => put({ before: 0 })}>
            Newest
          </Button>
        )}
        {all.length === 200 && (
          <Button size="small" onClick={() => put({ before: all.at(-1)!.id })}>
            Earlier
          </Button>
        )}
      </div>
    </>
  );
}

function Line({ deed: d }: { deed: Deed }) {
  return (
    <div className={`${lists.row} ${styles.deed}`}>
      <span className="faint">{new Date(d.at).toLocaleString()}</span>
      <span>{d.name || "nobody"}</span>
      <span>
        {words(d.did)}
        {d.kind && ` · ${d.kind} ${d.thing}`}
        {outcome(d.status) && <b> · {outcome(d.status)}</b>}
      </span>
      <span className="faint mono">{d.address}</span>
    </div>
  );
}
