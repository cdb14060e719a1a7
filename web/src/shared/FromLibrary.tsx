import { App, Button, Select } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import { KeepDialog } from "./KeepDialog";
import { entryOf, useLibrary, type Kind } from "../api/library";
import { disabledIf } from "./disabledIf";
import styles from "./FromLibrary.module.css";

type Props = { kind: Kind; body: unknown; take: (body: unknown) => void; what: string };

/** FromLibrary takes a kept section into a ticket, by value, or keeps the ticket's under a name. */
export function FromLibrary({ kind, body, take, what }: Props) {
  const list = useLibrary(kind);
  const { message } = App.useApp();
  const taking = useChange(entryOf, []);
  const [naming, setNaming] = useState(false);
  const own = list.data?.filter((e) => !e.builtIn) ?? [];
  return (
    <div className={styles.pick}>
      <Select
        size="small"
        value={null}
        placeholder={own.length > 0 ? `Take a kept ${what}` : `No kept ${what} yet`}
        {...disabledIf(own.length === 0)}
        aria-label={`Take a kept ${what}`}
        options={own.map((e) => ({ value: e.key, label: `${e.name}, version ${e.version}` }))}
        onChange={(k) =>
          taking.mutate(
            own.find((e) => e.key === k)!,
            {
              onSuccess: (e) => take(e.body),
              onError: (e: Error) => void message.error(e.message),
            },
          )
        }
      />
      <Button size="small" type="text" onClick={() => setNaming(true)}>
        Keep this one
      </Button>
      {naming && <KeepDialog kind={kind} what={what} body={body} close={() => setNaming(false)} />}
    </div>
  );
}
