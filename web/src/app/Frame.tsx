import { useEffect, useState, type ReactNode } from "react";
import { createPortal } from "react-dom";
import { Link, NavLink, Outlet } from "react-router";
import { useRuns } from "../api/client";
import { useLive } from "../api/live";
import { left, percent } from "../parts/words";

const icons = {
  scenes: "M3 4h18v16H3zM3 14l6-5 5 4 3-2 4 3",
  jobs: "M5 3h14v18H5zM8 8h8M8 12h8M8 16h5",
  queue: "M3 5h18v4H3zM3 11h13v4H3zM3 17h8v3H3z",
};

function Icon({ path }: { path: string }) {
  return (
    <svg width="22" height="22" viewBox="0 0 24 24" fill="none" stroke="currentColor" strokeWidth="1.4" aria-hidden>
      <path d={path} />
    </svg>
  );
}

/** Where fills the header line with the place a page stands for. */
export function Where({ children }: { children: ReactNode }) {
  const [slot, setSlot] = useState<HTMLElement | null>(null);
  useEffect(() => setSlot(document.getElementById("where")), []);
  return slot ? createPortal(children, slot) : null;
}

/** Going shows the one run that is being rendered. */
function Going() {
  const events = useLive((s) => s.events);
  const connected = useLive((s) => s.connected);
  const runs = useRuns();
  const e = Object.values(events).find((v) => v.state === "running" || v.state === "stopping");
  if (!connected) {
    return <span className="going faint">no connection to the server, trying again</span>;
  }
  if (!e) return null;
  const name = runs.data?.find((r) => r.run.id === e.run)?.job ?? "Run";
  return (
    <Link className="going" to={`/runs/${e.run}`}>
      <span>{name}</span>
      <span className="bar">
        <i style={{ width: `${e.share * 100}%` }} />
      </span>
      <span className="faint">{e.note || `${percent(e.share)}${e.left == null ? "" : `, ${left(e.left)} left`}`}</span>
    </Link>
  );
}

export function Frame() {
  return (
    <div className="frame">
      <nav className="rail" aria-label="Main">
        <Link className="mark" to="/" aria-label="Amber Proof" style={{ padding: 0, border: 0 }}>
          <img src="/mark.svg" width="28" height="28" alt="" />
        </Link>
        <NavLink to="/scenes">
          <Icon path={icons.scenes} />
          Scenes
        </NavLink>
        <NavLink to="/jobs">
          <Icon path={icons.jobs} />
          Jobs
        </NavLink>
        <NavLink to="/queue">
          <Icon path={icons.queue} />
          Queue
        </NavLink>
      </nav>
      <header className="head">
        <div className="where" id="where" />
        <Going />
      </header>
      <main className="page">
        <Outlet />
      </main>
    </div>
  );
}
