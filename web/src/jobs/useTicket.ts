import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, queryClient, type Fault, type Schemas, type Ticket } from "../api/http";
import { write, type TicketPath } from "../shared/path";
import { compareTicket, saveTicket, useJob } from "./api";

export type Saved = "saved" | "saving" | "faults" | "changed elsewhere" | "not saved";

/** What somebody else saved in the meantime, beside what is on the screen. */
export type Conflict = Schemas["JobsVersions"];

/** Steps that can be taken back. */
const historyLimit = 200;
const saveAfter = 350;

/**
 * useTicket edits a job's ticket: every change is saved as it is made, and can
 * be taken back. The server judges; a ticket with faults is not saved, and one
 * that was changed elsewhere in the meantime is put beside the other for a choice.
 */
export function useTicket(id: number) {
  const job = useJob(id);
  const [ticket, setTicket] = useState<Ticket | null>(null);
  const [faults, setFaults] = useState<Fault[]>([]);
  const [saved, setSaved] = useState<Saved>("saved");
  const [version, setVersion] = useState(0);
  const [conflict, setConflict] = useState<Conflict | null>(null);
  const [depth, setDepth] = useState({ undo: 0, redo: 0 });
  const past = useRef<Ticket[]>([]);
  const future = useRef<Ticket[]>([]);
  const now = useRef<Ticket | null>(null);
  const base = useRef(0); // version the server has
  const timer = useRef(0);
  const waiting = useRef(false); // a change has not been sent yet
  const lastPath = useRef({ path: "", at: 0 });
  const sending = useRef<Promise<boolean>>(Promise.resolve(true));

  const adopt = useCallback((t: Ticket, v: number) => {
    now.current = t;
    base.current = v;
    setTicket(t);
    setVersion(v);
  }, []);

  useEffect(() => {
    if (job.data && now.current === null) adopt(job.data.ticket, job.data.version);
  }, [job.data, adopt]);

  /** send saves what is on the screen; true when the server then has just that. */
  const send = useCallback(async (): Promise<boolean> => {
    const t = now.current;
    if (!t) return false;
    waiting.current = false;
    try {
      const j = await saveTicket(id, base.current, t);
      base.current = j.version;
      setVersion(j.version);
      setFaults([]);
      queryClient.setQueryData(["job", id], j);
      if (now.current !== t) return false; // more was typed meanwhile and will be sent
      // The server's tidy form, with the preset it recognised.
      adopt(j.ticket, j.version);
      setSaved("saved");
      return true;
    } catch (e) {
      if (e instanceof ApiError && e.faults.length > 0) {
        setFaults(e.faults.map((f) => ({ ...f, path: f.path.replace(/^body\.ticket\./, "") })));
        setSaved("faults");
      } else if (e instanceof ApiError && e.status === 409) {
        setSaved("changed elsewhere");
        setConflict(await compareTicket(id, t).catch(() => null));
      } else setSaved("not saved");
      return false;
    }
  }, [id, adopt]);

  const queueSend = useCallback(() => (sending.current = sending.current.then(send)), [send]);

  const schedule = useCallback(() => {
    setSaved("saving");
    waiting.current = true;
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => void queueSend(), saveAfter);
  }, [queueSend]);

  const show = useCallback(
    (t: Ticket) => {
      now.current = t;
      setTicket(t);
      setDepth({ undo: past.current.length, redo: future.current.length });
      schedule();
    },
    [schedule],
  );

  const replace = useCallback(
    (t: Ticket, path: string) => {
      if (!now.current) return;
      // Keystrokes in one field within a moment are one step.
      const at = Date.now();
      const same = lastPath.current.path === path && at - lastPath.current.at < 900;
      lastPath.current = { path, at };
      if (!same) past.current = [...past.current, now.current].slice(-historyLimit);
      future.current = [];
      show(t);
    },
    [show],
  );

  const set = useCallback(
    (path: TicketPath, value: unknown) => now.current && replace(write(now.current, path, value), path),
    [replace],
  );

  const step = useCallback(
    (from: typeof past, to: typeof past) => {
      const t = from.current.at(-1);
      if (!t || !now.current) return;
      from.current = from.current.slice(0, -1);
      to.current = [...to.current, now.current];
      lastPath.current = { path: "", at: 0 };
      show(t);
    },
    [show],
  );
  const undo = useCallback(() => step(past, future), [step]);
  const redo = useCallback(() => step(future, past), [step]);

  /** flush waits until the server has what is on the screen and returns its version, or null when it has not. */
  const flush = useCallback(async (): Promise<number | null> => {
    window.clearTimeout(timer.current);
    let ok = await sending.current;
    if (waiting.current || !ok) ok = await queueSend();
    return ok ? base.current : null;
  }, [queueSend]);

  /** takeTheirs gives up what is on the screen for what was saved elsewhere; it can be taken back. */
  const takeTheirs = useCallback(() => {
    if (!conflict || !now.current) return;
    past.current = [...past.current, now.current].slice(-historyLimit);
    future.current = [];
    adopt(conflict.job.ticket, conflict.job.version);
    queryClient.setQueryData(["job", id], conflict.job);
    setDepth({ undo: past.current.length, redo: 0 });
    setConflict(null);
    setFaults([]);
    setSaved("saved");
    sending.current = Promise.resolve(true);
  }, [conflict, adopt, id]);

  /** keepMine saves what is on the screen over what was saved elsewhere. */
  const keepMine = useCallback(() => {
    if (!conflict) return;
    base.current = conflict.job.version;
    setConflict(null);
    setSaved("saving");
    void queueSend();
  }, [conflict, queueSend]);

  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (saved === "saving") e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [saved]);
  useEffect(
    () => () => {
      window.clearTimeout(timer.current);
      // Leaving sends what has not been sent, and nothing that was refused.
      if (waiting.current) void queueSend();
    },
    [queueSend],
  );

  return {
    job,
    ticket,
    faults,
    saved,
    version,
    set,
    replace,
    undo,
    redo,
    flush,
    depth,
    conflict,
    takeTheirs,
    keepMine,
  };
}
