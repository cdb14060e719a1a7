import { Button } from "antd";
import { useCast, type Run } from "../api/runs";
import { Field, useEditing } from "../shared/Field";
import { castWords } from "../shared/words";

/** From so many of 255 steps in the mean on, a cast is worth a switch. */
const seen = 1;

/** ClayLight is the light that clay is seen in, and how far from neutral it left the clay of a run. */
export function ClayLight({ run }: { run?: Run }) {
  const { ticket, set } = useEditing();
  const c = useCast(run).data;
  return (
    <>
      <Field path="surface.clay.light" />
      {run && c && c.places > 0 && (
        <p className="faint" data-testid="cast">
          Clay of run {run.number}: {castWords(c)}
          {c.mean >= seen && c.tone[0]! !== c.tone[2]! && (c.tone[0]! > c.tone[2]! ? ", warm" : ", cool")}.{" "}
          {c.mean >= seen && ticket.surface.clay.light === "stage" && (
            <Button size="small" onClick={() => set("surface.clay.light", "colourless")}>
              Neutral
            </Button>
          )}
        </p>
      )}
    </>
  );
}
