import { Button, Modal } from "antd";
import type { Conflict, Editor } from "./editor";

type Props<D> = { what: string; editor: Editor<D>; conflict: Conflict<D> | null };

/** ConflictDialog puts a document that was saved elsewhere beside the one on the screen, for a choice. */
export function ConflictDialog<D>({ what, editor, conflict }: Props<D>) {
  if (!conflict) return null;
  return (
    <Modal
      open
      closable={false}
      title={`This ${what} was changed elsewhere`}
      footer={[
        <Button key="theirs" onClick={editor.takeTheirs}>
          Take the saved one
        </Button>,
        <Button key="mine" type="primary" onClick={editor.keepMine}>
          Save mine over it
        </Button>,
      ]}
    >
      <p>
        Version {conflict.theirs.version} was saved in another window or by somebody else, while it was changed here
        too.
      </p>
      <h2>Changed here</h2>
      <List testid="differences" all={conflict.mine} />
      <h2>Changed elsewhere</h2>
      <List testid="others" all={conflict.others} />
      <p className="faint">Taking the saved one can be taken back with Undo.</p>
    </Modal>
  );
}

function List({ testid, all }: { testid: string; all: string[] }) {
  return (
    <ul data-testid={testid}>
      {all.map((d) => (
        <li key={d}>{d}</li>
      ))}
      {all.length === 0 && <li>Nothing.</li>}
    </ul>
  );
}
