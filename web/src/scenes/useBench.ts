import { useCallback, useRef, useState } from "react";
import { ApiError, queryClient, type Schemas } from "../api/http";
import { saveSetup, takeSetup, type SceneBody } from "./api";

export type Change = Schemas["Change"];
export type Finish = Schemas["Finish"];
export type Stage = Schemas["Stage"];
/** What a step changes: entries are laid over those of the same part or finish; no stage takes it away. */
export type Changes = {
  file?: File | null;
  parts?: Change[];
  finishes?: Finish[];
  stage?: Stage | null;
  variants?: Variant[];
  sets?: FaceSet[];
  /** Keys of parts of which nothing is changed any more. */
  without?: string[];
  aside?: Aside[];
};
export type File = Schemas["File"];
type Aside = Schemas["Aside"];
type Variant = Schemas["Variant"];
type FaceSet = Schemas["Set"];
type Setup = {
  file: File | null;
  parts: Change[];
  finishes: Finish[];
  stage: Stage | null;
  variants: Variant[];
  sets: FaceSet[];
  aside: Aside[];
};
export type Saved = "saved" | "saving" | "not saved" | "changed elsewhere";

/** Steps that can be taken back. */
const historyLimit = 200;
/** Changes of the same things within so many milliseconds are one step. */
const oneStep = 900;
/** What the name of a drag begins with. */
export const ofDrag = "drag ";

const unchanged: Omit<Change, "part" | "path"> = {
  out: false,
  shift: { x: 0, y: 0, z: 0 },
  turn: { x: 0, y: 0, z: 0 },
  scale: 1,
  finish: "",
  name: "",
  group: "",
  smooth: 0,
};

/** What is corrected of a file as it was read: nothing. */
const asRead: File = { up: "y", turn: 0, size: 1 };

/** pathOf is a part's place in the tree, as set-ups find it again. */
export function pathOf(scene: SceneBody, part: number): string {
  const way: string[] = [];
  for (let o = scene.parts[part]!.object; o >= 0; o = scene.objects[o]!.parent) way.unshift(scene.objects[o]!.name);
  return way.join(" / ");
}

/**
 * useBench edits what is changed over an imported scene: every change is saved as
 * it is made and can be taken back. What was saved elsewhere in the meantime wins,
 * and is shown.
 */
export function useBench(scene: SceneBody | undefined, failed: (message: string) => void) {
  const [draft, setDraft] = useState<Setup | null>(null); // on its way to the server
  const [saved, setSaved] = useState<Saved>("saved");
  const [depth, setDepth] = useState({ undo: 0, redo: 0 });
  const past = useRef<Setup[]>([]);
  const future = useRef<Setup[]>([]);
  const waiting = useRef<Setup | null>(null);
  const busy = useRef(false);
  const last = useRef({ what: "", at: 0 });
  const id = scene?.scene.id;
  const kept = scene?.setup;
  const version = useRef(0);
  if (!busy.current && scene) version.current = scene.setup.version;

  const send = useCallback(async () => {
    if (busy.current || id === undefined) return;
    busy.current = true;
    try {
      while (waiting.current) {
        const setup = waiting.current;
        waiting.current = null;
        const { stage, file, ...rest } = setup;
        const body = await saveSetup({
          id,
          version: version.current,
          setup: { ...rest, ...(stage && { stage }), ...(file && { file }) },
        });
        version.current = body.setup.version;
        queryClient.setQueryData(["scene", id], body);
      }
      setSaved("saved");
    } catch (e) {
      waiting.current = null;
      const elsewhere = e instanceof ApiError && e.status === 409;
      if (elsewhere) {
        // Steps of before know nothing of what was changed there, and would undo it.
        past.current = [];
        future.current = [];
        setDepth({ undo: 0, redo: 0 });
      }
      setSaved(elsewhere ? "changed elsewhere" : "not saved");
      failed(
        elsewhere
          ? "The set-up was changed elsewhere; that is shown now."
          : e instanceof ApiError
            ? [e.message, ...e.faults.map((f) => f.message)].join(". ")
            : String(e),
      );
      void queryClient.invalidateQueries({ queryKey: ["scene", id] });
    } finally {
      busy.current = false;
      setDraft(null);
      void queryClient.invalidateQueries({ queryKey: ["scenes"] });
    }
  }, [id, failed]);

  const now: Setup = draft ?? {
    file: kept?.file ?? null,
    parts: kept?.parts ?? [],
    finishes: kept?.finishes ?? [],
    stage: kept?.stage ?? null,
    variants: kept?.variants ?? [],
    sets: kept?.sets ?? [],
    aside: kept?.aside ?? [],
  };
  const show = (setup: Setup) => {
    setDraft(setup);
    setSaved("saving");
    setDepth({ undo: past.current.length, redo: future.current.length });
    waiting.current = setup;
    void send();
  };

  /**
   * put makes a step; what names the field, so that its keystrokes are one, or a drag, all of
   * which is one however long it takes.
   */
  const put = (
    {
      file = now.file,
      parts = [],
      finishes = [],
      stage = now.stage,
      variants = now.variants,
      sets = now.sets,
      without = [],
      aside = now.aside,
    }: Changes,
    what = "",
  ) => {
    const at = Date.now();
    const same =
      what !== "" && last.current.what === what && (what.startsWith(ofDrag) || at - last.current.at < oneStep);
    last.current = { what, at };
    if (!same) past.current = [...past.current, now].slice(-historyLimit);
    future.current = [];
    const ofParts = new Set([...parts.map((c) => c.part), ...without]);
    const ofFinishes = new Set(finishes.map((f) => f.name));
    show({
      file,
      parts: [...now.parts.filter((c) => !ofParts.has(c.part)), ...parts],
      finishes: [...now.finishes.filter((f) => !ofFinishes.has(f.name)), ...finishes],
      stage,
      variants,
      sets,
      aside,
    });
  };

  /** again takes a whole set-up, as one of before; it can be taken back. */
  const again = (setup: Schemas["Setup"]) => {
    past.current = [...past.current, now].slice(-historyLimit);
    future.current = [];
    last.current = { what: "", at: 0 };
    show({
      file: setup.file ?? null,
      parts: setup.parts,
      finishes: setup.finishes ?? [],
      stage: setup.stage ?? null,
      variants: setup.variants ?? [],
      sets: setup.sets ?? [],
      aside: setup.aside ?? [],
    });
  };

  const step = (from: typeof past, to: typeof past) => {
    const setup = from.current.at(-1);
    if (!setup) return;
    from.current = from.current.slice(0, -1);
    to.current = [...to.current, now];
    last.current = { what: "", at: 0 };
    show(setup);
  };

  /** take lays the set-up of another scene over this one, as of an older file; it can be taken back. */
  const take = async (from: number) => {
    if (busy.current || id === undefined) return;
    busy.current = true;
    setSaved("saving");
    try {
      const body = await takeSetup({ id, version: version.current, scene: from });
      past.current = [...past.current, now].slice(-historyLimit);
      future.current = [];
      setDepth({ undo: past.current.length, redo: 0 });
      queryClient.setQueryData(["scene", id], body);
      setSaved("saved");
    } catch (e) {
      setSaved("not saved");
      failed(e instanceof Error ? e.message : String(e));
      void queryClient.invalidateQueries({ queryKey: ["scene", id] });
    } finally {
      busy.current = false;
    }
  };

  /** of is what is changed of a part. */
  const of = (part: number): Change => {
    const key = scene!.parts[part]!.key;
    return { ...unchanged, path: pathOf(scene!, part), ...now.parts.find((c) => c.part === key), part: key };
  };

  return {
    saved,
    depth,
    put,
    take,
    again,
    file: now.file ?? asRead,
    stage: now.stage,
    variants: now.variants,
    sets: now.sets,
    aside: now.aside,
    of,
    /** back is the change that puts a part back as the file has it. */
    back: (part: number): Change => ({ ...of(part), ...unchanged }),
    /** finish is what is changed of a finish. */
    finish: (name: string): Finish => now.finishes.find((f) => f.name === name) ?? { name, from: "" },
    undo: () => step(past, future),
    redo: () => step(future, past),
  };
}

export type Bench = ReturnType<typeof useBench>;
