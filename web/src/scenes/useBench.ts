import { useCallback, useEffect, useMemo } from "react";
import { queryClient, type Schemas } from "../api/http";
import type { Keeper, Kept } from "../shared/editor";
import { useEditor } from "../shared/useEditor";
import { compareSetup, saveSetup, sceneQuery, takeSetup, type SceneBody } from "../api/scenes";

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

/** setupOf is a set-up as the page changes it; what a scene does not have is there all the same. */
const setupOf = (u: Schemas["Setup"] | SceneBody["setup"]): Setup => ({
  file: u.file ?? null,
  parts: u.parts,
  finishes: u.finishes ?? [],
  stage: u.stage ?? null,
  variants: u.variants ?? [],
  sets: u.sets ?? [],
  aside: u.aside ?? [],
});

/** sent is a set-up as the server takes it. */
const sent = ({ stage, file, ...rest }: Setup): Schemas["Setup"] => ({
  ...rest,
  ...(stage && { stage }),
  ...(file && { file }),
});

const keptOf = (body: SceneBody): Kept<Setup> => ({ doc: setupOf(body.setup), version: body.setup.version });

/** took shows a scene as the server describes it after its set-up was saved. */
const took = (id: number, body: SceneBody) => {
  queryClient.setQueryData(["scene", id], body);
  void queryClient.invalidateQueries({ queryKey: ["scenes"] });
  return keptOf(body);
};

/** setupIn is where the set-up of a scene is kept. */
const setupIn = (id: number): Keeper<Setup> => ({
  key: `set-up ${id}`,
  save: async (doc, version) => took(id, await saveSetup({ id, version, setup: sent(doc) })),
  compare: async (mine, base) => {
    const v = await compareSetup({ id, setup: sent(mine), base: sent(base) });
    const body = await queryClient.fetchQuery(sceneQuery(id));
    return { theirs: keptOf(body), mine: v.mine, others: v.theirs };
  },
  newer: () => void queryClient.invalidateQueries({ queryKey: ["scene", id] }),
});

/** merged lays changes over a set-up. */
function merged(now: Setup, c: Changes): Setup {
  const { parts = [], finishes = [], without = [] } = c;
  const ofParts = new Set([...parts.map((p) => p.part), ...without]);
  const ofFinishes = new Set(finishes.map((f) => f.name));
  return {
    file: c.file === undefined ? now.file : c.file,
    parts: [...now.parts.filter((p) => !ofParts.has(p.part)), ...parts],
    finishes: [...now.finishes.filter((f) => !ofFinishes.has(f.name)), ...finishes],
    stage: c.stage === undefined ? now.stage : c.stage,
    variants: c.variants ?? now.variants,
    sets: c.sets ?? now.sets,
    aside: c.aside ?? now.aside,
  };
}

/** changeOf is what a set-up changes of a part. */
export const changeOf = (setup: Setup, scene: SceneBody, part: number): Change => {
  const key = scene.parts[part]!.key;
  return { ...unchanged, path: pathOf(scene, part), ...setup.parts.find((c) => c.part === key), part: key };
};

/** useBench edits what is changed over an imported scene. */
export function useBench(id: number, scene: SceneBody | undefined, failed: (message: string) => void) {
  const kept = useMemo(() => scene && keptOf(scene), [scene]);
  const { editor, state } = useEditor(() => setupIn(id), kept);
  const now = state.doc ?? setupOf({ parts: [] } as unknown as SceneBody["setup"]);
  const wrong = state.saved === "faults" || state.saved === "not saved" ? state : null;
  useEffect(() => {
    if (wrong) failed([wrong.message, ...wrong.faults.map((f) => f.message)].join(". "));
  }, [wrong?.message, wrong?.saved]); // eslint-disable-line -- once for each fault
  /**
   * put makes a step: of changes, or of what they are by then, where an answer was waited for;
   * what names the thing that is changed. No changes are no step.
   */
  const put = useCallback(
    (c: Changes | ((now: Setup) => Changes | null | undefined), what = "") =>
      editor.change((doc) => {
        const changes = typeof c === "function" ? c(doc) : c;
        return changes ? merged(doc, changes) : doc;
      }, what),
    [editor],
  );
  return {
    editor,
    saved: state.saved,
    depth: state.depth,
    conflict: state.conflict,
    put,
    /** awaits has a change count as unsaved while the server works it out, and tells where that failed. */
    awaits: (work: Promise<unknown>) =>
      void editor.awaits(work).catch((e: unknown) => failed(e instanceof Error ? e.message : String(e))),
    /** take lays the set-up of another scene over this one, as of an older file; it can be taken back. */
    take: (from: number) =>
      editor
        .run(async (version) => took(id, await takeSetup({ id, version, scene: from })))
        .catch((e: unknown) => failed(e instanceof Error ? e.message : String(e))),
    /** again takes a whole set-up, as one of before; it can be taken back. */
    again: (setup: Schemas["Setup"]) => editor.change(() => setupOf(setup)),
    file: now.file ?? asRead,
    stage: now.stage,
    variants: now.variants,
    sets: now.sets,
    aside: now.aside,
    of: (part: number): Change => changeOf(now, scene!, part),
    /** soFar is what is changed of a part by the time it is called. */
    soFar: (part: number): Change => changeOf(editor.snapshot().doc ?? now, scene!, part),
    /** back is the change that puts a part back as the file has it. */
    back: (part: number): Change => ({ ...changeOf(now, scene!, part), ...unchanged }),
    /** finish is what is changed of a finish. */
    finish: (name: string): Finish => now.finishes.find((f) => f.name === name) ?? { name, from: "" },
    undo: editor.undo,
    redo: editor.redo,
  };
}

export type Bench = ReturnType<typeof useBench>;
