import { useCallback, useMemo } from "react";
import { ApiError, queryClient, type Ticket } from "../api/http";
import type { Keeper } from "../shared/editor";
import { write, type TicketPath } from "../shared/path";
import { useEditor } from "../shared/useEditor";
import { compareTicket, saveTicket, useJob } from "../api/jobs";

/** ticketOf is where a job's ticket is kept. The server judges: a ticket with faults is not saved. */
const ticketOf = (id: number): Keeper<Ticket> => ({
  key: `ticket ${id}`,
  save: async (ticket, version) => {
    try {
      const j = await saveTicket(id, version, ticket);
      queryClient.setQueryData(["job", id], j);
      return { doc: j.ticket, version: j.version };
    } catch (e) {
      if (!(e instanceof ApiError)) throw e;
      const faults = e.faults.map((f) => ({ ...f, path: f.path.replace(/^body\.ticket\./, "") }));
      throw new ApiError(e.message, e.status, faults);
    }
  },
  compare: async (mine, base) => {
    const v = await compareTicket(id, mine, base);
    queryClient.setQueryData(["job", id], v.job);
    return { theirs: { doc: v.job.ticket, version: v.job.version }, mine: v.mine, others: v.theirs };
  },
  newer: () => void queryClient.invalidateQueries({ queryKey: ["job", id] }),
});

export type TicketEditor = ReturnType<typeof useTicket>;

/** useTicket edits a job's ticket. */
export function useTicket(id: number) {
  const job = useJob(id);
  const kept = useMemo(() => job.data && { doc: job.data.ticket, version: job.data.version }, [job.data]);
  const { editor, state } = useEditor(() => ticketOf(id), kept);
  const set = useCallback(
    (path: TicketPath, value: unknown) => editor.change((t) => write(t, path, value), path),
    [editor],
  );
  return { job, editor, ...state, ticket: state.doc, set };
}
