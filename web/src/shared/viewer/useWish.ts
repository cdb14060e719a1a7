import { useEffect } from "react";
import type { Schemas, Ticket } from "../../api/http";
import type { Rectangle } from "./frame";
import type { surfaceNames } from "./LiveControls";
import { useLivePicture, type LivePicture } from "./livePicture";

/** What is traced over the frame, beside the scene and the camera. */
export type Live = { picture: LivePicture; ticket?: Ticket | undefined; dark?: string[] | undefined; variant?: string };

/** otherSurface is what a ticket's surfaces can be swapped for. */
export const otherSurface = (t: Ticket | undefined): keyof typeof surfaceNames =>
  t?.surface.mode === "clay" ? "own" : "clay";

/** useWish asks for a live picture of what a view shows, for as long as it is there. */
export function useWish(
  p: { scene: Schemas["SceneBody"]; live: Live; hidden?: number[] | undefined },
  frame: Rectangle | null,
  camera: Schemas["Camera"],
) {
  const { picture, ticket, dark, variant } = p.live;
  const { scene } = p.scene;
  const swapped = useLivePicture(picture, (s) => s.swapped);
  useEffect(() => picture.open(scene.id), [picture, scene.id]);
  // Every drawing: the same wish is asked for once.
  useEffect(() => {
    const dense = Math.min(2, window.devicePixelRatio);
    picture.want(
      frame && {
        scene: scene.id,
        ticket,
        dark,
        variant: variant || undefined,
        surface: swapped ? otherSurface(ticket) : undefined,
        hidden: p.hidden?.length ? p.hidden.map((i) => p.scene.parts[i]!.key) : undefined,
        camera,
        width: Math.round(frame.w * dense),
        height: Math.round(frame.h * dense),
        stand: `${p.scene.setup.version}`,
      },
    );
  });
}
