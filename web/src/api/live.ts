import { create } from "zustand";
import { queryClient, type Schemas } from "./http";

export type Progress = Schemas["Progress"];
type Changed = { project: number; round: number };
type Message = { now: boolean; runs: Progress[] | null; rounds: Changed[] | null };

/** How each run goes that is going. */
export const useLive = create<{ runs: Record<number, Progress>; connected: boolean }>(() => ({
  runs: {},
  connected: false,
}));

const ongoing = new Set(["running", "stopping", "delivering"]);

/** isGoing tells whether somebody works on a run. */
export const isGoing = (state: string) => ongoing.has(state);

function stale(run?: number) {
  for (const queryKey of [["runs"], ["queue"], ["jobs"], run === undefined ? ["run"] : ["run", run]]) {
    // What is on its way for the first time may be from before the news, and is not asked anew by being stale.
    const first = queryClient
      .getQueryCache()
      .findAll({ queryKey })
      .some((q) => q.state.fetchStatus === "fetching" && q.state.data === undefined);
    const asked = queryClient.invalidateQueries({ queryKey });
    if (first) void asked.then(() => queryClient.invalidateQueries({ queryKey }));
  }
}

/** roundChanged has what is known of a round be asked anew; null for all rounds. */
function roundChanged(r: Changed | null) {
  for (const queryKey of [["board", ...(r ? [r.project] : [])], ["round", ...(r ? [r.round] : [])], ["remarks"]])
    void queryClient.invalidateQueries({ queryKey });
}

/** unlessHeard is how often to ask for something whose changes are heard of, in milliseconds. */
export const unlessHeard = () => (useLive.getState().connected ? 60_000 : 4000);

function take(m: Message) {
  const before = useLive.getState().runs;
  // The first message says what is going: whatever was going and is not in it has ended.
  const after: Record<number, Progress> = m.now ? {} : { ...before };
  for (const e of m.runs ?? []) {
    if (isGoing(e.state)) after[e.run] = e;
    else delete after[e.run];
  }
  useLive.setState({ runs: after });
  if (m.now) {
    stale();
    roundChanged(null); // what happened while nobody listened
  } else for (const e of m.runs ?? []) if (before[e.run]?.state !== e.state) stale(e.run);
  for (const r of m.rounds ?? []) roundChanged(r);
}

/** listen keeps a web socket open for as long as the page lives. */
export function listen() {
  let wait = 500;
  const connect = () => {
    const socket = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/live`);
    socket.onopen = () => {
      wait = 500;
      useLive.setState({ connected: true });
    };
    socket.onmessage = (m) => take(JSON.parse(m.data as string) as Message);
    socket.onclose = () => {
      useLive.setState({ connected: false });
      setTimeout(connect, wait);
      wait = Math.min(wait * 2, 8000);
    };
  };
  connect();
}
