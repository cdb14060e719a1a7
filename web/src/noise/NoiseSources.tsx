import { useState } from "react";
import { useBlame, type Area } from "../api/noise";
import type { RunDetail } from "../api/runs";
import type { Schemas } from "../api/http";
import { Segmented } from "antd";
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

type By = "way" | "light" | "part";

/** NoiseSources says which lights, ways and parts the noise of the picture or of an area comes from, looked at as its ticket says. */
export function NoiseSources({ run, area }: { run: RunDetail; area: Area | null }) {
  const blame = useBlame(run, area);
  const [chosen, choose] = useState<By | null>(null);
  const b = blame.data;
  const by = chosen ?? (b?.sources.length === 0 ? "part" : "way");
  return (
    <>
      <h2>Where it comes from{area ? ", in the area" : ""}</h2>
      {blame.isPending && <p className="faint">Measuring</p>}
      {blame.error && <p role="alert">{blame.error.message}</p>}
      {b &&
        (b.noise === 0 ? (
          <p className="faint">There is no noise that can be told: too few samples yet, or none in sight.</p>
        ) : (
          <>
            <Segmented<By>
              size="small"
              block
              value={by}
              onChange={choose}
              aria-label="Noise by"
              options={[
                { value: "way", label: "By way" },
                { value: "light", label: "By light" },
                { value: "part", label: "By part" },
              ]}
            />
            {by === "way" &&
              (b.sources.length > 0 ? (
                <Shares all={b.sources.map(named)} rest="" others="ways" />
              ) : (
                <p className="faint">By way it is not known of pictures of an earlier version.</p>
              ))}
            {by === "light" &&
              (b.lights.length > 0 ? (
                <Shares all={b.lights} rest="other light" others="lights" />
              ) : (
                <p className="faint">
                  By light it is not known here: that needs a ticket with each light as a pass, and with noise taken
                  out.
                </p>
              ))}
            {by === "part" && <Shares all={b.parts} rest="no part" others="parts" />}
            <p className="faint">Of {b.noise.toFixed(2)} % before denoising, root mean square.</p>
          </>
        ))}
    </>
  );
}

/** share is a share in percent; what rounds to nothing has no sign. */
const share = (n: number) => (Math.abs(n) < 0.05 ? 0 : n).toFixed(n < 9.5 ? 1 : 0);

type Props = { all: Blamed[]; rest: string; others: string };

function Shares({ all, rest, others }: Props) {
  return (
    <table className={styles.shares}>
      <tbody>
        {all.map((s) => (
          <tr key={s.name || `${rest} ${s.count}`}>
            <th scope="row">{s.name || (s.count > 1 ? `${s.count} other ${others}` : rest)}</th>
            <td className="mono">
              {share(s.share)} %{s.error >= 1 && ` ± ${s.error.toFixed(0)}`}
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
