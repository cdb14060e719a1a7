import { create } from "zustand";
import { queryClient, type Schemas } from "./client";

type Event = Schemas["Event"];

/** Newest news of each run that is going. */
export const useLive = create<{ events: Record<number, Event>; connected: boolean }>(() => ({
  events: {},
  connected: false,
}));

const going = (s: string) => s === "running" || s === "stopping";

function take(e: Event) {
  const before = useLive.getState().events[e.run];
  useLive.setState((s) => ({ events: { ...s.events, [e.run]: e } }));
  if (before?.state !== e.state || !going(e.state)) {
    void queryClient.invalidateQueries({ queryKey: ["runs"] });
    void queryClient.invalidateQueries({ queryKey: ["run", e.run] });
  }
}

/** listen keeps a web socket open for as long as the page lives. */
export function listen() {
  let wait = 500;
  const connect = () => {
    const socket = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/live`);
    socket.onopen = () => {
      wait = 500;
      useLive.setState({ connected: true });
      // What happened while nobody listened.
      void queryClient.invalidateQueries({ queryKey: ["runs"] });
      void queryClient.invalidateQueries({ queryKey: ["run"] });
    };
    socket.onmessage = (m) => take(JSON.parse(m.data as string) as Event);
    socket.onclose = () => {
      useLive.setState({ connected: false });
      setTimeout(connect, wait);
      wait = Math.min(wait * 2, 8000);
    };
  };
  connect();
}
