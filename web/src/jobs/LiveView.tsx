import { App } from "antd";
import { lazy, Suspense, useMemo, useState } from "react";
import { queryClient, type Ticket } from "../api/http";
import type { Outlook } from "../api/jobs";
import { pictureURL, type Run } from "../api/runs";
import { usePose, type SceneBody } from "../api/scenes";
import { KeptStrip } from "../shared/viewer/KeptStrip";
import { LiveLine } from "../shared/viewer/LiveLine";
import { LivePicture } from "../shared/viewer/livePicture";
import { otherSurface } from "../shared/viewer/useWish";
import type { TicketEditor } from "./useTicket";
import { whyWorn } from "./whyWorn";
import bits from "../shared/bits.module.css";

const Viewer = lazy(() => import("../shared/viewer/Viewer"));

type Props = {
  scene: SceneBody;
  ticket: Ticket;
  set: TicketEditor["set"];
  outlook: Outlook | undefined;
  runs: Run[];
  /** Parts that were asked about, by their keys. */
  lit: string[];
  onLit: (keys: string[]) => void;
};

/** LiveView is the scene as the ticket would render it: turnable, and traced while it stands still. */
export function LiveView({ scene, ticket, set, outlook: o, runs, lit, onLit }: Props) {
  const [picture] = useState(() => new LivePicture());
  const [held, setHeld] = useState<string[]>([]); // pictures in place of the live one
  const { message } = App.useApp();
  const { lens, motion } = ticket.view;
  const pose = usePose(scene.scene.id, motion.animation, motion.moment);
  const posed = motion.animation === "" ? undefined : pose.data;
  const views = posed?.views ?? scene.views;
  const view = views.find((v) => v.name === ticket.view.name) ?? views[0];
  const clad = useClad(scene, o);
  const parts = scene.parts;
  const picked = useMemo(() => parts.flatMap((p, i) => (lit.includes(p.key) ? [i] : [])), [parts, lit]);
  const why = (key: string) => {
    const part = parts.find((q) => q.key === key);
    return part ? whyWorn(ticket, o?.clay ?? [], part) : "";
  };
  return (
    <>
      <Suspense fallback={<div className={bits.empty}>Opening the view</div>}>
        {view && (
          <Viewer
            scene={scene}
            camera={view.camera}
            cameraKey={`${view.id} ${view.camera.matrix.join(" ")}`}
            pose={posed?.parts}
            live={{ picture, ticket }}
            picked={picked}
            clad={clad}
            onArea={
              ticket.surface.mode !== "own"
                ? (keys) => {
                    const rule = { by: "parts", match: "", parts: keys, do: "keep" };
                    set("surface.clay.rules", [rule, ...ticket.surface.clay.rules]);
                  }
                : undefined
            }
            onPick={(part) => onLit(part === null ? [] : [parts[part]!.key])}
            held={held}
            onKept={(k) => {
              if (typeof k === "string") return void message.error(k);
              void queryClient.invalidateQueries({ queryKey: ["kept", scene.scene.id] });
            }}
            crops={o && { list: o.crops, width: o.width, height: o.height }}
            width={ticket.view.width}
            height={ticket.view.height}
            region={ticket.view.region}
            onRegion={(r) => set("view.region", r)}
            focus={lens.on && lens.by === "point" ? lens : undefined}
            onFocus={(x, y) => set("view.lens", { ...lens, x, y })}
          />
        )}
      </Suspense>
      <div className={`${bits.slug} ${bits.still} mono`}>
        <div>
          {view?.name} · {ticket.view.width} × {ticket.view.height} px ·{" "}
          {held.length > 0 ? (
            `${held.length === 1 ? "a picture" : "two pictures, compared"}, not live`
          ) : (
            <LiveLine
              picture={picture}
              other={otherSurface(ticket)}
              why={why}
              without="shaded for framing, not rendered"
            />
          )}
          {picked.length === 1 && ` · ${why(parts[picked[0]!]!.key)}`}
          {ticket.view.region.on && " · draw on the frame to set the region"}
          {lens.on && lens.by === "point" && " · click what is to be in focus"}
        </div>
      </div>
      <KeptStrip scene={scene.scene.id} proofs={proofsOf(runs)} held={held} onHeld={setHeld} />
    </>
  );
}

/** useClad is the clay that parts wear, as the frame draws it: display grey by part. */
function useClad(scene: SceneBody, o: Outlook | undefined) {
  const parts = scene.parts;
  return useMemo(() => {
    const greys = new Map<number, number>();
    const place = new Map(parts.map((p, i) => [p.key, i]));
    for (const d of o?.clay ?? []) {
      const clay = ["wear", "second", "third"].indexOf(d.do);
      const at = place.get(d.part);
      if (clay >= 0 && at !== undefined) greys.set(at, o!.tones[clay]!.shown);
    }
    return greys;
  }, [o, parts]);
}

/** How many proofs are beside what was kept. */
const mostProofs = 8;
/** Of their longer side, pixels: as large as they are shown. */
const keptSide = 1400;

/** proofsOf are the newest runs that have a picture, newest last. */
const proofsOf = (runs: Run[]) =>
  runs
    .filter((r) => r.samples > 0)
    .slice(0, mostProofs)
    .reverse()
    .flatMap((r) => [
      { url: pictureURL(r.id, "beauty", keptSide, r.samples), name: `run ${r.number}` },
      ...(r.surface === "both"
        ? [{ url: pictureURL(r.id, "clay", keptSide, r.samples), name: `run ${r.number}, clay` }]
        : []),
    ]);
