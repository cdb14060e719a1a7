import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import type { Schemas, Ticket } from "../../api/http";
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

export type LiveState = {
  /** The newest frame, with the view and the wish that it answers. */
  frame: (LiveFrame & { view: string; key: string }) | null;
  /** Of the newest wish. */
  view: string;
  key: string;
  wrong: string;
  /** What lies under the pointer. */
  reading: LiveReading | null;
  area: LiveArea | null;
  /** The view stands still and shows the traced picture. */
  shown: boolean;
  /** What is clipped or crushed is marked. */
  marked: boolean;
  /** Own finishes are shown for clay, or clay for them. */
  swapped: boolean;
  /** The histogram and the area's values are shown. */
  readOuts: boolean;
  /** The picture is kept as soon as it is whole. */
  keeping: boolean;
};

/** isCurrent tells whether the newest frame is of the view that is wanted, if perhaps not yet of the newest change. */
export const isCurrent = (s: LiveState) => s.frame !== null && s.frame.view === s.view;
/** isWhole tells whether the newest frame shows all of what is wanted, at full resolution. */
export const isWhole = (s: LiveState) => s.frame !== null && s.frame.key === s.key && s.frame.scale === 1;

/**
 * LivePicture has a traced picture drawn onto a canvas for as long as something is wanted:
 * the newest wish first, then better and better. A window that nobody looks at asks for
 * nothing. What is known of the picture stands in its store, outside the state of any page:
 * twelve frames a second draw only what shows them.
 */
export class LivePicture {
  readonly store = createStore<LiveState>()(() => ({
    frame: null,
    view: "",
    key: "",
    wrong: "",
    reading: null,
    area: null,
    shown: false,
    marked: false,
    swapped: false,
    readOuts: false,
    keeping: false,
  }));
  private wish: Wish | null = null;
  private canvas: HTMLCanvasElement | null = null;
  private socket: WebSocket | null = null;
  private readers: ((r: LiveReading | null) => void)[] = []; // one for each reading asked for
  private keepers: ((k: Schemas["Kept"] | string) => void)[] = []; // one for each picture to be kept
  private waiting: (() => void)[] = []; // for a frame, or to know that none comes
  private number = 0;
  private asked = { view: "", key: "" };
  private last: { frame: LiveFrame; pixels: Uint8ClampedArray<ArrayBuffer> } | null = null;
  private soon = 0;

  /** open asks the server for pictures of a scene; the answer closes it again. */
  open(scene: number): () => void {
    let ended = false;
    let retry = 0;
    const connect = () => {
      const s = new WebSocket(
        `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/scenes/${scene}/live`,
      );
      s.binaryType = "arraybuffer";
      s.onopen = this.ask;
      s.onmessage = (m) => {
        if (m.data instanceof ArrayBuffer) this.take(m.data);
        else this.told(JSON.parse(m.data as string) as Told);
      };
      s.onclose = () => {
        this.readers.splice(0).forEach((give) => give(null));
        this.keepers.splice(0).forEach((give) => give(noAnswer));
        this.goOn();
        if (!ended) retry = window.setTimeout(connect, again);
      };
      this.socket = s;
    };
    connect();
    document.addEventListener("visibilitychange", this.ask);
    const here = window.setInterval(() => !document.hidden && this.send({}), beat);
    return () => {
      ended = true;
      window.clearTimeout(retry);
      window.clearTimeout(this.soon);
      window.clearInterval(here);
      document.removeEventListener("visibilitychange", this.ask);
      this.socket?.close();
      this.socket = null;
      this.last = null;
      this.store.setState({ frame: null, reading: null, area: null, keeping: false });
    };
  }

  /** want says what is to be seen; changes of one moment are one wish. */
  want(wish: Wish | null) {
    this.wish = wish;
    const key = wish ? keyOf(wish) : "";
    const now = this.store.getState();
    if (key === now.key) return;
    this.store.setState({
      key,
      view: wish ? viewOf(wish) : "",
      frame: now.frame && { ...now.frame, done: false }, // until the answer comes
    });
    window.clearTimeout(this.soon);
    this.soon = window.setTimeout(this.ask, 0);
  }

  /** drawOn has the picture drawn onto a canvas from now on. */
  drawOn(canvas: HTMLCanvasElement | null) {
    this.canvas = canvas;
    this.draw();
  }

  /** change changes how the picture is looked at. */
  change(c: Partial<Pick<LiveState, "shown" | "marked" | "swapped" | "readOuts" | "keeping">>) {
    this.store.setState(c);
    if (c.marked !== undefined) this.draw();
  }

  /** readOnce asks what lies under a point, in shares of the frame; null where there is no picture. */
  readOnce(u: number, v: number): Promise<LiveReading | null> {
    return new Promise((give) => {
      if (this.send({ read: [u, v] })) this.readers.push(give);
      else give(null);
    });
  }

  /** readNewest is readOnce of the picture that was asked for last, from its first frame on. */
  async readNewest(u: number, v: number): Promise<LiveReading | null> {
    for (;;) {
      const reading = await this.readOnce(u, v);
      const { frame, wrong } = this.store.getState();
      const over = wrong !== "" || (frame?.done && frame.number === this.number);
      if (reading || over || this.socket?.readyState !== WebSocket.OPEN) return reading;
      await new Promise<void>((next) => this.waiting.push(next));
    }
  }

  /** read shows what lies under a point. */
  read(u: number, v: number) {
    void this.readOnce(u, v).then((reading) => this.store.setState({ reading }));
  }

  /** forget forgets what was read last. */
  readonly forget = () => this.store.setState({ reading: null });

  /** measure asks for the mean of an area, in shares of the frame: left, top, right, bottom. */
  measure(area: [number, number, number, number]) {
    this.send({ area });
  }

  /** keep keeps the picture as it is now; a text says why it could not be. */
  keep(): Promise<Schemas["Kept"] | string> {
    return new Promise((give) => {
      if (this.send({ keep: true })) this.keepers.push(give);
      else give(noAnswer);
    });
  }

  private send(message: object): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private readonly ask = () => {
    const w = this.wish;
    if (!w || document.hidden) return void this.send({ pause: true });
    this.asked = { view: viewOf(w), key: keyOf(w) };
    const { ticket, dark, hidden, variant, surface, camera, width, height } = w;
    const number = this.number + 1;
    if (this.send({ wish: { number, ticket, dark, hidden, variant, surface, camera, width, height } }))
      this.number = number;
  };

  /** take shows a frame: the length of its header, the header, and pixels of RGBA. */
  private take(data: ArrayBuffer) {
    const length = new DataView(data).getUint32(0, true);
    const frame = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as LiveFrame;
    if (frame.number !== this.number) return; // answers an older wish
    this.last = { frame, pixels: new Uint8ClampedArray(data, 4 + length) };
    this.draw();
    this.store.setState({ frame: { ...frame, ...this.asked }, wrong: "" });
    this.goOn();
  }

  private goOn() {
    this.waiting.splice(0).forEach((go) => go());
  }

  private told(m: Told) {
    const newest = m.number === this.number;
    if (m.reading) this.readers.shift()?.(m.reading.number === this.number ? m.reading : null);
    if (m.area) this.store.setState({ area: m.area.number === this.number ? m.area : null });
    if (m.kept) this.keepers.shift()?.(m.kept);
    if (m.notKept) this.keepers.shift()?.(m.notKept);
    if (m.wrong && newest) {
      this.store.setState({ wrong: m.wrong });
      this.goOn();
    }
  }

  /** draw puts the last frame onto the canvas. */
  private draw() {
    const to = this.canvas;
    if (!to || !this.last) return;
    const { frame: f, pixels } = this.last;
    const small = new OffscreenCanvas(f.pixels, f.rows);
    small.getContext("2d")!.putImageData(new ImageData(pixels, f.pixels, f.rows), 0, 0);
    if (to.width !== f.width || to.height !== f.height) {
      to.width = f.width;
      to.height = f.height;
    }
    const pen = to.getContext("2d")!;
    pen.clearRect(0, 0, f.width, f.height);
    pen.imageSmoothingQuality = "high";
    pen.drawImage(small, 0, 0, f.width, f.height);
    if (this.store.getState().marked) markLimits(pen, pixels, f.pixels, f.rows, f.width, f.height);
  }
}

const noAnswer = "The server does not answer.";

/** useLive is what a component shows of a live picture: it is drawn again only when that changes. */
export const useLivePicture = <T>(picture: LivePicture, of: (s: LiveState) => T): T => useStore(picture.store, of);
