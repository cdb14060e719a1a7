import { create } from "zustand";
import { queryClient, type Schemas } from "./http";

export type Event = Schemas["Event"];
type Message = { now: boolean; events: Event[] };

/** Newest news of each run that is going. */
export const useLive = create<{ events: Record<number, Event>; connected: boolean }>(() => ({
  events: {},
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

function take(m: Message) {
  const before = useLive.getState().events;
  // The first message says what is going: whatever was going and is not in it has ended.
  const after: Record<number, Event> = m.now ? {} : { ...before };
  for (const e of m.events) {
    if (isGoing(e.state)) after[e.run] = e;
    else delete after[e.run];
  }
  useLive.setState({ events: after });
  if (m.now) stale();
  else for (const e of m.events) if (before[e.run]?.state !== e.state) stale(e.run);
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
