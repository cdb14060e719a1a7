import { ApiError, type Fault } from "../api/http";

/** A document as the server keeps it. */
export type Kept<D> = { doc: D; version: number };

/** What somebody else saved in the meantime, and what either side changed since the version both began from. */
export type Conflict<D> = { theirs: Kept<D>; mine: string[]; others: string[] };

export type Saved = "saved" | "saving" | "faults" | "changed elsewhere" | "not saved";

/** Where documents of a kind are kept. */
export type Keeper<D> = {
  /** Names the document, also to other windows. */
  key: string;
  /** save keeps a document over a version; of another version it throws an ApiError of status 409. */
  save: (doc: D, version: number) => Promise<Kept<D>>;
  /** compare tells what stands against a document that was made from base. */
  compare: (mine: D, base: D) => Promise<Conflict<D>>;
  /** newer is called when another window has saved a version. */
  newer: (version: number) => void;
};

export type State<D> = {
  doc: D | null;
  version: number;
  saved: Saved;
  faults: Fault[];
  /** Why it is not saved. */
  message: string;
  depth: { undo: number; redo: number };
  conflict: Conflict<D> | null;
};

/** Steps that can be taken back. */
const historyLimit = 200;
const saveAfter = 350;
/** Changes of one thing within so many milliseconds are one step. */
const oneStep = 900;
/** What the name of a drag begins with: all of it is one step, however long it takes. */
export const ofDrag = "drag ";
const retryMost = 15000;

/** passing tells whether what went wrong may go right by itself. */
const passing = (e: unknown) => !(e instanceof ApiError) || e.status === 0 || e.status === 429 || e.status >= 500;

/**
 * Editor edits one document that the server keeps. Every change is saved as it is made,
 * over the version it was made from, and can be taken back. What cannot be saved at the
 * moment is kept and tried again; what somebody else saved meanwhile is put beside it for
 * a choice; and what other windows save is taken over where nothing here is unsaved.
 */
export class Editor<D> {
  private state: State<D> = {
    doc: null,
    version: 0,
    saved: "saved",
    faults: [],
    message: "",
    depth: { undo: 0, redo: 0 },
    conflict: null,
  };
  private listeners = new Set<() => void>();
  private past: D[] = [];
  private future: D[] = [];
  private base: Kept<D> | null = null; // as the server has it
  private unsent = false;
  private sending: Promise<void> | null = null;
  private timer = 0;
  private tries = 0;
  private last = { what: "", at: 0 };
  /** Changes made while the server makes a version by itself. */
  private meanwhile: ((doc: D) => D)[] | null = null;
  /** What works out changes that are still to come. */
  private working = new Set<Promise<unknown>>();
  private windows: BroadcastChannel | null = null;

  constructor(private readonly keeper: Keeper<D>) {}

  readonly snapshot = (): State<D> => this.state;
  readonly subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** attach listens to other windows until what it returns is called, which sends what has not been sent. */
  readonly attach = () => {
    this.windows = new BroadcastChannel(`amberproof ${this.keeper.key}`);
    this.windows.onmessage = (e: MessageEvent<number>) => {
      if (this.base && e.data > this.base.version && !this.dirty()) this.keeper.newer(e.data);
    };
    return () => {
      window.clearTimeout(this.timer);
      if (this.unsent && this.state.saved !== "faults") void this.send();
      this.windows?.close();
      this.windows = null;
    };
  };

  /** dirty tells whether something here is not kept by the server. */
  readonly dirty = () => this.unsent || this.sending !== null || this.meanwhile !== null || this.working.size > 0;

  private set(s: Partial<State<D>>) {
    this.state = { ...this.state, ...s, depth: { undo: this.past.length, redo: this.future.length } };
    for (const f of this.listeners) f();
  }

  /**
   * opened takes a document over as the server has it. Where something here is unsaved it
   * stays: saving it finds the other version. Steps of before know nothing of what was
   * changed elsewhere, and would undo it.
   */
  readonly opened = (kept: Kept<D>) => {
    if ((this.base && kept.version <= this.base.version) || (this.base && this.dirty())) return;
    if (this.base) this.past = this.future = [];
    this.base = kept;
    this.set({ doc: kept.doc, version: kept.version, saved: "saved", faults: [], message: "", conflict: null });
  };

  /** change makes a step of the document as it is by then; what names the thing that is changed. */
  readonly change = (f: (doc: D) => D, what = "") => {
    const now = this.state.doc;
    if (now === null) return;
    const next = f(now);
    if (next === now) return;
    const at = Date.now();
    const same = what !== "" && this.last.what === what && (what.startsWith(ofDrag) || at - this.last.at < oneStep);
    this.last = { what, at };
    if (!same) this.past = [...this.past, now].slice(-historyLimit);
    this.future = [];
    this.meanwhile?.push(f);
    this.show(next);
  };

  /** undo takes the last step back; one that is still worked out, once it has come. */
  readonly undo = (): void => {
    if (this.working.size > 0) return void Promise.allSettled(this.working).then(this.undo);
    const doc = this.past.at(-1);
    if (doc === undefined || this.meanwhile) return;
    this.past = this.past.slice(0, -1);
    this.future = [...this.future, this.state.doc!];
    this.last = { what: "", at: 0 };
    this.show(doc);
  };

  readonly redo = () => {
    const doc = this.future.at(-1);
    if (doc === undefined || this.meanwhile) return;
    this.future = this.future.slice(0, -1);
    this.past = [...this.past, this.state.doc!];
    this.last = { what: "", at: 0 };
    this.show(doc);
  };

  private show(doc: D) {
    this.unsent = true;
    this.set({ doc, saved: this.state.conflict ? "changed elsewhere" : "saving" });
    this.later(saveAfter);
  }

  private later(ms: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.send(), ms);
  }

  /** send saves until nothing is unsent, or something stands against it. */
  private send(): Promise<void> {
    if (this.meanwhile) return Promise.resolve(); // sent after it
    this.sending ??= this.sendAll().finally(() => (this.sending = null));
    return this.sending;
  }

  private async sendAll() {
    while (this.unsent && !this.state.conflict) {
      const doc = this.state.doc!;
      this.unsent = false;
      try {
        const kept = await this.keeper.save(doc, this.base!.version);
        this.tries = 0;
        this.took(kept, doc);
      } catch (e) {
        this.unsent = true;
        if (this.state.doc !== doc && !passing(e) && (e as ApiError).status !== 409) continue; // changed since
        await this.refused(e);
        return;
      }
    }
  }

  /** took notes what the server keeps now; where nothing was changed meanwhile, its tidy form is shown. */
  private took(kept: Kept<D>, sent: D) {
    this.base = kept;
    this.windows?.postMessage(kept.version);
    this.set({
      version: kept.version,
      faults: [],
      message: "",
      ...(this.state.doc === sent
        ? { doc: kept.doc, saved: this.working.size > 0 ? ("saving" as const) : ("saved" as const) }
        : {}),
    });
  }

  private async refused(e: unknown) {
    const message = e instanceof Error ? e.message : String(e);
    if (passing(e)) {
      this.set({ saved: "not saved", message });
      this.later(Math.min(retryMost, 1000 * 2 ** this.tries++));
      return;
    }
    const { status, faults } = e as ApiError;
    if (status === 409) {
      try {
        const conflict = await this.keeper.compare(this.state.doc!, this.base!.doc);
        this.set({ saved: "changed elsewhere", message, conflict });
      } catch (x) {
        this.set({ saved: "not saved", message: x instanceof Error ? x.message : String(x) });
        this.later(Math.min(retryMost, 1000 * 2 ** this.tries++));
      }
      return;
    }
    this.set({ saved: faults.length > 0 ? "faults" : "not saved", faults, message });
  }

  /**
   * awaits has the document count as unsaved while a change to it is worked out elsewhere;
   * the work makes the change when it has its answer.
   */
  readonly awaits = async <T>(work: Promise<T>): Promise<T> => {
    this.working.add(work);
    if (this.state.saved === "saved") this.set({ saved: "saving" });
    try {
      return await work;
    } finally {
      this.working.delete(work);
      if (!this.dirty() && this.state.saved === "saving") this.set({ saved: "saved" });
    }
  };

  /** flush waits until the server has what is on the screen and returns its version, or null when it has not. */
  readonly flush = async (): Promise<number | null> => {
    while (this.working.size > 0) await Promise.allSettled(this.working);
    window.clearTimeout(this.timer);
    if (this.sending) await this.sending;
    if (this.unsent) await this.send();
    return this.dirty() || this.state.conflict || !this.base ? null : this.base.version;
  };

  /**
   * run has the server make the next version by itself, of the one it keeps; changes made
   * meanwhile are made again on what comes. It can be taken back. False: what is on the
   * screen could not be saved before.
   */
  readonly run = async (make: (version: number) => Promise<Kept<D>>): Promise<boolean> => {
    const version = await this.flush();
    if (version === null || this.meanwhile) return false;
    const before = this.state.doc!;
    const past = this.past;
    this.meanwhile = [];
    this.set({ saved: "saving" });
    try {
      const kept = await make(version);
      const again = this.meanwhile;
      this.meanwhile = null;
      this.unsent = again.length > 0;
      this.base = kept;
      this.windows?.postMessage(kept.version);
      this.past = [...past, before];
      this.future = [];
      let doc = kept.doc;
      for (const f of again) {
        this.past = [...this.past, doc];
        doc = f(doc);
      }
      this.past = this.past.slice(-historyLimit);
      this.set({ doc, version: kept.version, saved: this.unsent ? "saving" : "saved" });
    } finally {
      if (this.meanwhile) {
        this.meanwhile = null;
        this.set({ saved: this.unsent ? "saving" : "saved" });
      }
      if (this.unsent) this.later(0);
    }
    return true;
  };

  /** takeTheirs gives up what is on the screen for what was saved elsewhere; it can be taken back. */
  readonly takeTheirs = () => {
    const { conflict, doc } = this.state;
    if (!conflict || doc === null) return;
    this.past = [...this.past, doc].slice(-historyLimit);
    this.future = [];
    this.base = conflict.theirs;
    this.unsent = false;
    const { doc: theirs, version } = conflict.theirs;
    this.set({ doc: theirs, version, saved: "saved", faults: [], message: "", conflict: null });
  };

  /** keepMine saves what is on the screen over what was saved elsewhere. */
  readonly keepMine = () => {
    const { conflict } = this.state;
    if (!conflict) return;
    this.base = conflict.theirs;
    this.unsent = true;
    this.set({ saved: "saving", conflict: null });
    void this.send();
  };
}
