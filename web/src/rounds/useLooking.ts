import { useState } from "react";
import { fit, type Zoom } from "../shared/proof/Desk";
import { upright } from "../shared/viewer/wipe";

/** Gains of a difference. */
export const gains = [1, 4, 16, 64];

/** useLooking is how the pictures of the page are looked at: at one zoom, and in one exposure unless set free. */
export function useLooking() {
  const [zoom, setZoom] = useState<Zoom>(fit);
  const [scale, setScale] = useState(1);
  const [command, setCommand] = useState({ kind: "fit" as "fit" | "pixels", n: 0 });
  const [wipe, setWipe] = useState(upright);
  const [turn, setTurn] = useState(0);
  const [against, setAgainst] = useState(0);
  const [gain, setGain] = useState(4);
  const [pass, setPass] = useState("");
  const [stops, setStops] = useState(0);
  const [own, setOwn] = useState<Record<string, number> | null>(null);
  const go = (kind: "fit" | "pixels") => setCommand((c) => ({ kind, n: c.n + 1 }));
  return {
    zoom,
    setZoom,
    scale,
    setScale,
    command,
    go,
    wipe,
    setWipe,
    /** Which of all pictures flipping shows, counted from the one in front. */
    turn,
    setTurn,
    /** Which of the others is wiped to or taken off. */
    against,
    setAgainst,
    gain,
    setGain,
    /** The pass of the proof in front, and of those that follow it; empty for the first. */
    pass,
    setPass,
    stops,
    setStops,
    /** Whether each picture has an exposure of its own. */
    free: own !== null,
    setFree: (free: boolean) => setOwn(free ? {} : null),
    stopsOf: (key: string) => stops + (own?.[key] ?? 0),
    ownOf: (key: string) => own?.[key] ?? 0,
    setOwnOf: (key: string, v: number) => setOwn((was) => ({ ...was, [key]: v })),
  };
}

export type Looking = ReturnType<typeof useLooking>;
