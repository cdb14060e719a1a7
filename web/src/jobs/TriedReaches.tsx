import { useQueries } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Ticket } from "../api/http";
import { renderSmall, type SceneBody } from "../api/scenes";
import { Try } from "../shared/Try";
import { useEditing } from "../shared/Field";
import bits from "../shared/bits.module.css";
import styles from "./TriedReaches.module.css";

/** Reaches that are tried, by the one that is proposed. */
const times = [0.25, 0.5, 1, 2, 4];

/** Width and height of a try, pixels. */
const side = 200;

/** TriedReaches is the job's picture with five reaches of its crevices, to be taken by a click. */
export function TriedReaches({ scene, proposed }: { scene: SceneBody; proposed: number }) {
  const { ticket, set } = useEditing();
  const crevices = ticket.surface.clay.crevices!;
  const reaches = times.map((k) => +(k * proposed).toPrecision(2));
  const withReach = (reach: number): Ticket => ({
    ...ticket,
    surface: { ...ticket.surface, clay: { ...ticket.surface.clay, crevices: { ...crevices, reach } } },
  });
  // One after the other: a browser has few lines to a server, and all would wait for each other there.
  const [here, setHere] = useState(0);
  const tries = useQueries({
    queries: reaches.map((reach, i) => ({
      enabled: i <= here,
      queryKey: ["tried", scene.scene.id, scene.setup.version, withReach(reach)],
      staleTime: Infinity,
      retry: 0,
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        renderSmall(
          scene.scene.id,
          { ticket: withReach(reach), view: ticket.view.name, width: side, height: side },
          signal,
        ),
    })),
  });
  const made = tries.filter((t) => t.isFetched).length;
  useEffect(() => setHere(made), [made]);
  return (
    <div className={styles.strip} aria-label="Reaches, tried">
      {reaches.map((reach, i) => (
        <button
          key={reach}
          className={reach === crevices.reach ? `${bits.kept} ${bits.chosen}` : bits.kept}
          aria-label={`Take a reach of ${reach} mm`}
          onClick={() => set("surface.clay", withReach(reach).surface.clay)}
        >
          <Try blob={tries[i]?.data} wrong={tries[i]?.error?.message} />
          <span className="mono">{reach} mm</span>
        </button>
      ))}
    </div>
  );
}
