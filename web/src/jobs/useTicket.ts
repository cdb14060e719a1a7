import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, queryClient, saveTicket, useJob, type Fault, type Ticket } from "../api/client";
import { write } from "../parts/Field";

export type Saved = "saved" | "saving" | "faults" | "changed elsewhere" | "not saved";

/** Steps that can be taken back. */
const historyLimit = 200;
const saveAfter = 350;

/**
 * useTicket edits a job's ticket: every change is saved as it is made, and can
 * be taken back. The server judges; a ticket with faults is not saved.
 */
export function useTicket(id: number) {
  const job = useJob(id);
  const [ticket, setTicket] = useState<Ticket | null>(null);
  const [faults, setFaults] = useState<Fault[]>([]);
  const [saved, setSaved] = useState<Saved>("saved");
  const [version, setVersion] = useState(0);
  const [depth, setDepth] = useState({ undo: 0, redo: 0 });
  const past = useRef<Ticket[]>([]);
  const future = useRef<Ticket[]>([]);
  const now = useRef<Ticket | null>(null);
  const base = useRef(0); // version the server has
  const timer = useRef(0);
  const lastPath = useRef({ path: "", at: 0 });
  const sending = useRef(Promise.resolve());

  useEffect(() => {
    if (job.data && now.current === null) {
      now.current = job.data.ticket;
      base.current = job.data.version;
      setTicket(job.data.ticket);
      setVersion(job.data.version);
    }
  }, [job.data]);

  const send = useCallback(async () => {
    const t = now.current;
    if (!t) return;
    try {
      const j = await saveTicket(id, base.current, t);
      base.current = j.version;
      setVersion(j.version);
      setFaults([]);
      queryClient.setQueryData(["job", id], j);
      if (now.current === t) {
        // The server's tidy form, with the preset it recognised.
        now.current = j.ticket;
        setTicket(j.ticket);
        setSaved("saved");
      }
    } catch (e) {
      if (e instanceof ApiError && e.faults.length > 0) {
        setFaults(e.faults.map((f) => ({ ...f, path: f.path.replace(/^body\.ticket\./, "") })));
        setSaved("faults");
      } else if (e instanceof ApiError && e.status === 409) setSaved("changed elsewhere");
      else setSaved("not saved");
    }
  }, [id]);

  const schedule = useCallback(() => {
    setSaved("saving");
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => {
      sending.current = sending.current.then(send);
    }, saveAfter);
  }, [send]);

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
    (path: string, value: unknown) => now.current && replace(write(now.current, path, value), path),
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

  /** flush waits until what is on the screen is what the server has. */
  const flush = useCallback(async () => {
    window.clearTimeout(timer.current);
    await sending.current;
    if (now.current !== queryClient.getQueryData<{ ticket: Ticket }>(["job", id])?.ticket) await send();
  }, [id, send]);

  const reload = useCallback(async () => {
    now.current = null;
    past.current = [];
    future.current = [];
    setDepth({ undo: 0, redo: 0 });
    const fresh = await job.refetch();
    if (fresh.data) {
      now.current = fresh.data.ticket;
      base.current = fresh.data.version;
      setTicket(fresh.data.ticket);
      setVersion(fresh.data.version);
      setSaved("saved");
      setFaults([]);
    }
  }, [job]);

  useEffect(() => {
    const leave = (e: BeforeUnloadEvent) => {
      if (saved === "saving") e.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [saved]);
  useEffect(
    () => () => {
      // Leaving the page sends what is still waiting.
      if (timer.current) {
        window.clearTimeout(timer.current);
        void send();
      }
    },
    [send],
  );

  return { job, ticket, faults, saved, version, set, replace, undo, redo, flush, reload, depth };
}
