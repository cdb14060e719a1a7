import { useMessages } from "../api/outbox";
import bits from "../shared/bits.module.css";
import { Messages } from "./Messages";

/** Outbox is the mail of a project. */
export function Outbox({ project }: { project: number }) {
  const simulated = useMessages({ project, webhook: 0, before: 0 }).data?.simulated;
  return (
    <>
      {simulated && (
        <p className={bits.notice}>
          No mail server is set, so mail goes no further than this page. Start the server with{" "}
          <code className="mono" style={{ whiteSpace: "nowrap" }}>
            --smtp
          </code>{" "}
          to send it.
        </p>
      )}
      <Messages
        choice={{ project, webhook: 0 }}
        none="No mail yet. People with an address are told what concerns them."
      />
    </>
  );
}
