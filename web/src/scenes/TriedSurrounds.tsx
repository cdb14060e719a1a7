import { useQueries } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../api/http";
import { surroundName } from "../shared/SurroundSelect";
import { Try } from "../shared/Try";
import { renderSmall, useSurrounds, type SceneBody } from "../api/scenes";
import bits from "../shared/bits.module.css";
import styles from "./TriedSurrounds.module.css";

type Surround = Schemas["SurroundSetting"];
type Props = {
  scene: SceneBody;
  camera: Schemas["Camera"];
  surround: Surround;
  take: (picture: Surround["picture"]) => void;
};

/** Width and height of a try, pixels. */
const side = 232;

/** TriedSurrounds is a contact sheet: the product in each of the environment pictures, to be taken by a click. */
export function TriedSurrounds({ scene, camera, surround, take }: Props) {
  const all = useSurrounds().data ?? [];
  // One after the other: a browser has few lines to a server, and all would wait for each other there.
  const [here, setHere] = useState(0);
  const tries = useQueries({
    queries: all.map((s, i) => ({
      enabled: i <= here,
      queryKey: ["tried", scene.scene.id, scene.setup.version, camera, surround.turn, surround.strength, s.sha256],
      staleTime: Infinity,
      retry: 0,
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        renderSmall(
          scene.scene.id,
          {
            camera,
            surround: { ...surround, on: true, kind: "picture", picture: { name: s.name, sha256: s.sha256 } },
            width: side,
            height: side,
          },
          signal,
        ),
    })),
  });
  const made = tries.filter((t) => t.isFetched).length;
  useEffect(() => setHere(made), [made]);
  if (all.length === 0)
    return <p className="faint">There are no environment pictures yet; they are added on the scenes page.</p>;
  return (
    <div className={styles.sheet} aria-label="Surrounds, tried">
      {all.map((s, i) => (
        <button
          key={s.sha256}
          className={s.sha256 === surround.picture.sha256 ? `${bits.kept} ${bits.chosen}` : bits.kept}
          aria-label={`Take ${surroundName(s, all)}`}
          onClick={() => take({ name: s.name, sha256: s.sha256 })}
        >
          <Try blob={tries[i]?.data} wrong={tries[i]?.error?.message} />
          <span className="mono">{surroundName(s, all)}</span>
        </button>
      ))}
    </div>
  );
}
