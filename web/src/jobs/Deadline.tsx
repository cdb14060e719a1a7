import { Button, Input } from "antd";
import { useState } from "react";
import { useParams } from "react-router";
import { useWithin, type Forecast } from "../api/jobs";
import { Row, useEditing } from "../shared/Field";
import { useNow } from "../shared/useNow";
import { clockTime, count, time } from "../shared/words";
import { secondsUntil } from "./deadline";
import styles from "./QualityCurve.module.css";

/** Deadline tells what can be had by a time, and puts it into the ticket: another noise target, or another size. */
export function Deadline({ forecast }: { forecast: Forecast }) {
  const job = Number(useParams()["id"]);
  const { ticket, set } = useEditing();
  const [typed, type] = useState("");
  const [by, settle] = useState("");
  const now = useNow(30_000);
  const known = secondsUntil(by, new Date(now));
  const asked = useWithin(
    job,
    forecast.version,
    by,
    known === undefined ? undefined : () => secondsUntil(by, new Date()) ?? 0,
  );
  const wrong = by !== "" && known === undefined;
  const f = known === undefined ? undefined : asked.data;
  const w = f?.within;
  const { quality, view } = ticket;
  return (
    <>
      <Row
        label="To be done by"
        help="A time of the day, as 18:00, or how long it may take, as 45 min. What is told holds nine times in ten."
        fault={wrong ? "Write a time as 18:00, or how long as 45 min or 2 h" : undefined}
      >
        <Input
          size="small"
          value={typed}
          placeholder="18:00 or 45 min"
          aria-label="To be done by"
          onChange={(e) => type(e.target.value)}
          onBlur={() => settle(typed.trim())}
          onPressEnter={() => settle(typed.trim())}
        />
      </Row>
      {f && (
        <div className={styles.within} data-testid="within">
          {asked.isFetching && asked.isPlaceholderData ? (
            <span className="faint">Working it out</span>
          ) : !f.wait ? (
            <span className="faint">How long the runs before it take is not known.</span>
          ) : !w ? (
            <span className="faint">
              The runs before it may take until {clockTime(new Date(asked.dataUpdatedAt + f.wait.high * 1000))}.
            </span>
          ) : (
            <>
              {quality.noise > 0 &&
                (w.target ? (
                  <Offer
                    words={`${w.target.target} % at this size, ${time(w.target.seconds.mid)}`}
                    take="Set the target"
                    taken={w.target.target === quality.noise}
                    press={() => set("quality.noise", w.target!.target)}
                  />
                ) : (
                  <span className={styles.none}>At this size nothing is done by then.</span>
                ))}
              {quality.noise === 0 && (
                <Offer
                  words={`${count(w.most, "sample")} a pixel at this size`}
                  take="Set the samples"
                  taken={w.most === quality.most || w.most < quality.least}
                  press={() => set("quality.most", w.most)}
                />
              )}
              {w.size && (
                <Offer
                  words={`${w.size.width} × ${w.size.height} px${quality.noise > 0 ? ` at ${quality.noise} %` : ""}, ${time(w.size.seconds.mid)}`}
                  take={`Set ${w.size.scale} %`}
                  taken={w.size.scale === view.scale}
                  press={() => set("view.scale", w.size!.scale)}
                />
              )}
            </>
          )}
        </div>
      )}
    </>
  );
}

/** Offer is something that can be had, and a button that takes it. */
function Offer(p: { words: string; take: string; taken: boolean; press: () => void }) {
  return (
    <>
      <span>{p.words}</span>
      <Button size="small" disabled={p.taken} onClick={p.press}>
        {p.take}
      </Button>
    </>
  );
}
