import { App, Button, Form, Input, InputNumber, Modal, Select } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { addressOf, makeLink, revokeLink, useLinks, type Link, type LinkTerms } from "../api/links";
import type { Round } from "../api/rounds";
import { CopyDialog } from "../shared/CopyDialog";
import styles from "./RoundPage.module.css";

/** Links are those by which people without an account look at the round and answer. */
export function Links({ round }: { round: Round }) {
  const links = useLinks(round.id).data ?? [];
  const [making, setMaking] = useState(false);
  const [made, setMade] = useState<Link>();
  return (
    <>
      <h2>Links</h2>
      {links.length === 0 && <p className="faint">For reviewers without an account.</p>}
      {links.map((l) => (
        <One key={l.id} link={l} round={round} />
      ))}
      {round.asked.length > 0 && (
        <div className={styles.buttons}>
          <Button size="small" onClick={() => setMaking(true)}>
            New link
          </Button>
        </div>
      )}
      {making && (
        <Making
          round={round}
          cancel={() => setMaking(false)}
          done={(l) => {
            setMaking(false);
            setMade(l);
          }}
        />
      )}
      <CopyDialog
        title={`A link for ${made?.name}`}
        text={made ? addressOf(made.token) : ""}
        close={() => setMade(undefined)}
      >
        {made?.mailed ? `It was sent to ${made.name}.` : `Send it to ${made?.name}.`} It is shown once, shows this round
        and nothing else, and can be ended at any time.
      </CopyDialog>
    </>
  );
}

function One({ link: l, round }: { link: Link; round: Round }) {
  const { message } = App.useApp();
  const revoke = useChange(revokeLink, [["links", round.id]]);
  const last = l.visits[0];
  return (
    <div className={styles.answer}>
      {l.name}{" "}
      <span className="faint">
        {l.ended ? "ended" : `until ${new Date(l.until).toLocaleDateString()}`}
        {l.phrase && ", with a pass phrase"}
      </span>
      <div className="faint">
        {last
          ? `Opened ${l.visits.length === 1 ? "once" : `${l.visits.length} times`}, last by ${last.name}, ${new Date(last.at).toLocaleString()}`
          : "Not opened yet"}
      </div>
      {!l.ended && (
        <Button
          size="small"
          loading={revoke.isPending}
          onClick={() => revoke.mutate(l.id, { onError: (e) => void message.error(e.message) })}
        >
          End link
        </Button>
      )}
    </div>
  );
}

function Making({ round, cancel, done }: { round: Round; cancel: () => void; done: (l: Link) => void }) {
  const { message } = App.useApp();
  const make = useChange(makeLink, [["links", round.id]]);
  const [t, set] = useState<LinkTerms>({
    person: round.asked[0]!.id,
    days: 14,
    phrase: "",
    originals: "none",
    mail: "",
  });
  const put = (c: Partial<LinkTerms>) => set({ ...t, ...c });
  return (
    <Modal
      open
      title={`A link to round ${round.number}`}
      okText="Create link"
      okButtonProps={{ loading: make.isPending }}
      onCancel={cancel}
      onOk={() =>
        make.mutate({ round: round.id, ...t }, { onSuccess: done, onError: (e) => void message.error(e.message) })
      }
    >
      <Form layout="vertical" size="small" component="div">
        <Form.Item label="For">
          <Select
            aria-label="Who the link is for"
            value={t.person}
            onChange={(person: number) => put({ person })}
            options={round.asked.map((a) => ({ value: a.id, label: a.name }))}
          />
        </Form.Item>
        <Form.Item label="Good for">
          <InputNumber
            aria-label="Days"
            min={1}
            max={90}
            value={t.days}
            suffix="days"
            onChange={(days) => put({ days: days ?? 14 })}
          />
        </Form.Item>
        <Form.Item label="Pass phrase" help="Told apart from the link; without one, the link is enough.">
          <Input
            aria-label="Pass phrase"
            value={t.phrase ?? ""}
            maxLength={200}
            onChange={(e) => put({ phrase: e.target.value })}
          />
        </Form.Item>
        <Form.Item label="Mail">
          <Select
            aria-label="Mail"
            value={t.mail ?? ""}
            onChange={(mail) => put({ mail })}
            options={[
              { value: "" as const, label: "I send the link myself" },
              { value: "en" as const, label: "Send it to their address, in English" },
              { value: "de" as const, label: "Send it to their address, in German" },
            ]}
          />
        </Form.Item>
        <Form.Item label="Pictures can be saved in full size">
          <Select
            aria-label="Pictures in full size"
            value={t.originals}
            onChange={(originals) => put({ originals })}
            options={[
              { value: "none" as const, label: "No" },
              { value: "marked" as const, label: "With a watermark that names them" },
              { value: "plain" as const, label: "Yes" },
            ]}
          />
        </Form.Item>
      </Form>
    </Modal>
  );
}
