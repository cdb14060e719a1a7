import { App, Radio } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { keepEntry, type Kind } from "../api/library";
import { useProject } from "../api/projects";
import { NameDialog } from "./NameDialog";

type Props = { kind: Kind; what: string; body: unknown; close: () => void };

/** KeepDialog keeps something in the library, under a name: for the whole studio, or for the people of the project. */
export function KeepDialog({ kind, what, body, close }: Props) {
  const { message } = App.useApp();
  const here = useProject();
  const keep = useChange(keepEntry, [["library", kind]]);
  const [project, setProject] = useState(0);
  return (
    <NameDialog
      title={`Keep this ${what} in the library`}
      ok="Keep"
      cancel={close}
      done={(name) =>
        keep.mutate(
          { kind, name, body, project },
          {
            onError: (e: Error) => void message.error(e.message),
            onSuccess: (e) => {
              void message.success(`Kept as ${e.name}, version ${e.version}.`);
              close();
            },
          },
        )
      }
    >
      {here && (
        <Radio.Group
          style={{ marginTop: 8 }}
          value={project}
          onChange={(e) => setProject(e.target.value as number)}
          options={[
            { value: 0, label: "For the whole studio" },
            { value: here.id, label: `For ${here.name} only` },
          ]}
        />
      )}
    </NameDialog>
  );
}
