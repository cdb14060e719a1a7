import { useCallback, useEffect, useRef, useState } from "react";
import { useLatest } from "./useLatest";
import type { Schemas, Ticket } from "../api/http";
import { markLimits } from "./markLimits";

/** What is to be seen; a change of it is answered at once. */
export type Wish = {
  scene: number;
  /** As it is on the screen, saved or not; without one a new one. */
  ticket?: Ticket | undefined;
  /** Lights that do not shine in it. */
  dark?: string[] | undefined;
  /** Parts, by key, that are not in it. */
  hidden?: string[] | undefined;
  /** Own finishes or clay, in place of what the ticket says. */
  surface?: "own" | "clay" | undefined;
  /** Another look of the product than the ticket's. */
  variant?: string | undefined;
  camera: Schemas["Camera"];
  width: number;
  height: number;
  /** Changes with all else that the picture depends on. */
  stand: string;
};

/** A state of the picture, as the server describes it. */
export type LiveFrame = {
  number: number;
  width: number;
  height: number;
  pixels: number;
  rows: number;
  scale: number;
  samples: number;
  clean: boolean;
  done: boolean;
  millis: number;
  /** Percent of the picture at the limits of the display. */
  clipped: number;
  crushed: number;
  /** Of red, green and blue as displayed, in thousandths of the picture. */
  histogram: number[][];
  /** How much more red than blue there is on either side of the product, stops; of whole pictures. */
  warmth?: { left: number; right: number };
  /** How far clay is from neutral, in steps of 255; of whole pictures with clay. */
  cast?: { mean: number; worst: number };
  prepared: string;
};

export type LiveArea = {
  number: number;
  values: [number, number, number];
  display: [number, number, number];
  grey: number;
  pixels: number;
  /** Keys of the parts that show more of themselves in it than beside it. */
  parts: string[];
};

export type LiveReading = {
  number: number;
  values: [number, number, number];
  display: [number, number, number];
  part: string;
  key: string;
  finish: string;
};

type Told = {
  number: number;
  wrong?: string;
  reading?: LiveReading;
  area?: LiveArea;
  kept?: Schemas["Kept"];
  notKept?: string;
};

/** How often a page that looks says so. */
const beat = 45_000;
/** How long to wait before a lost connection is made again. */
const again = 1500;

const viewOf = (w: Wish) => JSON.stringify([w.camera, w.width, w.height]);
const keyOf = (w: Wish) => JSON.stringify([w.ticket, w.dark, w.hidden, w.variant, w.surface, viewOf(w), w.stand]);

/**
 * useLivePicture has a traced picture drawn onto a canvas for as long as something is
 * wanted: the newest wish first, then better and better. A page that nobody looks at
 * asks for nothing. marked has what is clipped or crushed marked in it.
 */
export function useLivePicture(wish: Wish | null, marked: boolean) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [frame, setFrame] = useState<(LiveFrame & { view: string; key: string }) | null>(null);
  const [wrong, setWrong] = useState("");
  const [reading, setReading] = useState<LiveReading | null>(null);
  const [area, setArea] = useState<LiveArea | null>(null);
  const socket = useRef<WebSocket | null>(null);
  const readers = useRef<((r: LiveReading | null) => void)[]>([]); // one for each reading asked for
  const keepers = useRef<((k: Schemas["Kept"] | string) => void)[]>([]); // one for each picture to be kept
  const number = useRef(0);
  const asked = useRef({ view: "", key: "" }); // of the newest wish
  const last = useRef<{ frame: LiveFrame; shown: Uint8ClampedArray<ArrayBuffer> } | null>(null);
  const marking = useLatest(marked);
  const latest = useLatest(wish);
  const scene = wish?.scene;
  const view = wish && viewOf(wish);
  const key = wish && keyOf(wish);

  const ask = useCallback(() => {
    const w = latest.current;
    const s = socket.current;
    if (s?.readyState !== WebSocket.OPEN) return;
    if (!w || document.hidden) return s.send(JSON.stringify({ pause: true }));
    number.current++;
    const { ticket, dark, hidden, variant, surface, camera, width, height } = w;
    asked.current = { view: viewOf(w), key: keyOf(w) };
    s.send(
      JSON.stringify({
        wish: { number: number.current, ticket, dark, hidden, variant, surface, camera, width, height },
      }),
    );
  }, []);

  /** draw puts the last frame onto the canvas. */
  const draw = useCallback(() => {
    const to = canvas.current;
    if (!to || !last.current) return;
    const { frame: f, shown } = last.current;
    const small = new OffscreenCanvas(f.pixels, f.rows);
    small.getContext("2d")!.putImageData(new ImageData(shown, f.pixels, f.rows), 0, 0);
    if (to.width !== f.width || to.height !== f.height) {
      to.width = f.width;
      to.height = f.height;
    }
    const pen = to.getContext("2d")!;
    pen.clearRect(0, 0, f.width, f.height);
    pen.imageSmoothingQuality = "high";
    pen.drawImage(small, 0, 0, f.width, f.height);
    if (marking.current) markLimits(pen, shown, f.pixels, f.rows, f.width, f.height);
  }, []);

  useEffect(() => {
    if (scene === undefined) return;
    let ended = false;
    let retry = 0;
    const take = (data: ArrayBuffer) => {
      const length = new DataView(data).getUint32(0, true);
      const f = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as LiveFrame;
      if (f.number !== number.current) return; // answers an older wish
      last.current = { frame: f, shown: new Uint8ClampedArray(data, 4 + length) };
      draw();
      setFrame({ ...f, ...asked.current });
      setWrong("");
    };
    const connect = () => {
      const s = new WebSocket(
        `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/scenes/${scene}/live`,
      );
      s.binaryType = "arraybuffer";
      s.onopen = ask;
      s.onmessage = (m) => {
        if (m.data instanceof ArrayBuffer) return take(m.data);
        const told = JSON.parse(m.data as string) as Told;
        if (told.reading) {
          const now = told.reading.number === number.current ? told.reading : null;
          readers.current.shift()?.(now);
        }
        if (told.area) setArea(told.area.number === number.current ? told.area : null);
        if (told.kept) keepers.current.shift()?.(told.kept);
        if (told.notKept) keepers.current.shift()?.(told.notKept);
        if (told.wrong && told.number === number.current) setWrong(told.wrong);
      };
      s.onclose = () => {
        readers.current.splice(0).forEach((give) => give(null));
        keepers.current.splice(0).forEach((give) => give("The server does not answer."));
        if (!ended) retry = window.setTimeout(connect, again);
      };
      socket.current = s;
    };
    connect();
    const look = () => ask();
    document.addEventListener("visibilitychange", look);
    const here = window.setInterval(() => {
      if (socket.current?.readyState === WebSocket.OPEN && !document.hidden) socket.current.send("{}");
    }, beat);
    return () => {
      ended = true;
      window.clearTimeout(retry);
      window.clearInterval(here);
      document.removeEventListener("visibilitychange", look);
      socket.current?.close();
      socket.current = null;
      last.current = null;
      setFrame(null);
    };
  }, [scene, ask, draw]);
  useEffect(draw, [marked, draw]);

  useEffect(() => {
    setFrame((f) => f && { ...f, done: false }); // until the answer comes
    const soon = window.setTimeout(ask, 0); // changes of one moment are one wish
    return () => window.clearTimeout(soon);
  }, [key, ask]);

  /** readOnce asks what lies under a point, in shares of the frame; null where there is no picture. */
  const readOnce = useCallback(
    (u: number, v: number) =>
      new Promise<LiveReading | null>((give) => {
        if (socket.current?.readyState !== WebSocket.OPEN) return give(null);
        readers.current.push(give);
        socket.current.send(JSON.stringify({ read: [u, v] }));
      }),
    [],
  );

  /** read shows what lies under a point. */
  const read = useCallback((u: number, v: number) => void readOnce(u, v).then(setReading), [readOnce]);

  /** measure asks for the mean of an area, in shares of the frame: left, top, right, bottom. */
  const measure = useCallback((a: [number, number, number, number]) => {
    if (socket.current?.readyState === WebSocket.OPEN) socket.current.send(JSON.stringify({ area: a }));
  }, []);

  /** keep keeps the picture as it is now; a text says why it could not be. */
  const keep = useCallback(
    () =>
      new Promise<Schemas["Kept"] | string>((give) => {
        if (socket.current?.readyState !== WebSocket.OPEN) return give("The server does not answer.");
        keepers.current.push(give);
        socket.current.send(JSON.stringify({ keep: true }));
      }),
    [],
  );

  const forget = useCallback(() => setReading(null), []);
  return {
    canvas,
    frame,
    /** Whether the canvas shows the view that is wanted, if perhaps not yet the newest change of it. */
    current: frame !== null && frame.view === view,
    /** Whether it shows all of what is wanted, and whole. */
    whole: frame !== null && frame.key === key && frame.scale === 1,
    wrong,
    reading,
    read,
    readOnce,
    area,
    measure,
    keep,
    /** Forgets what was read last. */
    forget,
  };
}
