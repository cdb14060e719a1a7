import { Button } from "antd";
import { useState } from "react";
import { useBlame, type RunDetail } from "../api/runs";
import type { Schemas } from "../api/http";
import { count } from "../shared/words";
import styles from "./NoiseSources.module.css";

type Blamed = Schemas["Blamed"];
type Source = Schemas["BlamedSource"];

/** What light of a way is called that is not straight from a light. */
const ways = {
  looked: "Seen directly",
  diffuse: "Bounced, diffuse",
  glossy: "Bounced, glossy",
  clear: "Via clear parts",
};

const named = (s: Source): Blamed => ({
  ...s,
  count: 1,
  name: s.way === "direct" ? `Direct, ${s.light}` : ways[s.way],
});

/** NoiseSources says which lights and parts the noise of the picture comes from, once somebody wants to know, looked at as its ticket says. */
export function NoiseSources({ run }: { run: RunDetail }) {
  const [asked, ask] = useState(false);
  const blame = useBlame(run, asked);
  const b = blame.data;
  return (
    <>
      <h2>Where the noise comes from</h2>
      {!asked && (
        <Button size="small" onClick={() => ask(true)}>
          Find the sources of noise
        </Button>
      )}
      {blame.isPending && asked && <p className="faint">Measuring…</p>}
      {blame.error && <p role="alert">{blame.error.message}</p>}
      {b &&
        (b.noise === 0 ? (
          <p className="faint">There is no noise that can be told: too few samples yet, or none in sight.</p>
        ) : (
          <>
            <p className="faint">Before denoising {b.noise.toFixed(2)} % of white, root mean square.</p>
            {b.lights.length > 0 ? (
              <Shares title="By light" all={b.lights} rest="other light" others="lights" />
            ) : (
              <p className="faint">
                By light it is not known here: that needs a ticket with each light as a pass, and with noise taken out.
              </p>
            )}
            {b.sources.length > 0 && <Shares title="By way" all={b.sources.map(named)} rest="" others="ways" />}
            <Shares title="By part" all={b.parts} rest="no part" others="parts" />
          </>
        ))}
    </>
  );
}

type Props = { title: string; all: Blamed[]; rest: string; others: string };

function Shares({ title, all, rest, others }: Props) {
  return (
    <table className={styles.shares}>
      <caption>{title}</caption>
      <tbody>
        {all.map((s) => (
          <tr key={s.name || `${rest} ${s.count}`}>
            <th scope="row">{s.name || (s.count > 1 ? `${count(s.count, "other")} ${others}` : rest)}</th>
            <td className="mono">
              {s.share.toFixed(s.share < 9.5 ? 1 : 0)} %{s.error >= 1 && ` ± ${s.error.toFixed(0)}`}
            </td>
            <td aria-hidden>
              <i style={{ width: `${Math.min(100, Math.max(0, s.share))}%` }} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
