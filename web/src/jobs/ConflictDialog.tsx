import { Button, Modal } from "antd";
import type { Conflict } from "./useTicket";

type Props = { conflict: Conflict; theirs: () => void; mine: () => void };

/** ConflictDialog puts a ticket that was saved elsewhere beside the one on the screen, for a choice. */
export function ConflictDialog({ conflict, theirs, mine }: Props) {
  return (
    <Modal
      open
      closable={false}
      title="This ticket was changed elsewhere"
      footer={[
        <Button key="theirs" onClick={theirs}>
          Take the saved one
        </Button>,
        <Button key="mine" type="primary" onClick={mine}>
          Save mine over it
        </Button>,
      ]}
    >
      <p>
        Version {conflict.job.version} was saved in another window or by somebody else. What yours has that the saved
        one has not:
      </p>
      <ul data-testid="differences">
        {conflict.differences.map((d) => (
          <li key={d}>{d}</li>
        ))}
        {conflict.differences.length === 0 && <li>Nothing: both say the same.</li>}
      </ul>
      <p className="faint">Taking the saved one can be taken back with Undo.</p>
    </Modal>
  );
}
