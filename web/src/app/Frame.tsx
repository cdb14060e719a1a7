import { AppstoreOutlined, BarsOutlined, BlockOutlined, FileTextOutlined, ScheduleOutlined } from "@ant-design/icons";
import { Progress } from "antd";
import { Suspense } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { isGoing, useLive } from "../api/live";
import { useRun } from "../api/runs";
import { left, percent } from "../shared/words";
import { ErrorBoundary } from "./ErrorBoundary";
import { Keys } from "./Keys";
import { ProjectSwitch } from "./ProjectSwitch";
import { Who } from "./Who";
import bits from "../shared/bits.module.css";
import styles from "./Frame.module.css";

/** Going shows the one run that is being rendered. */
function Going() {
  const events = useLive((s) => s.runs);
  const connected = useLive((s) => s.connected);
  const e = Object.values(events).find((v) => isGoing(v.state));
  const run = useRun(e?.run);
  if (!connected) {
    return (
      <span className={`${styles.going} faint`} role="status">
        no connection to the server, trying again
      </span>
    );
  }
  if (!e) return null;
  return (
    <Link className={styles.going} to={`/runs/${e.run}`}>
      <span>{run.data ? `${run.data.run.jobName} ${run.data.run.number}` : "Run"}</span>
      <Progress percent={Math.floor(e.share * 100)} showInfo={false} size={[140, 4]} aria-label="Progress" />
      <span className="faint">{e.note || `${percent(e.share)}${e.left == null ? "" : `, ${left(e.left)} left`}`}</span>
    </Link>
  );
}

const pages: { to: string; words: string; icon: React.ReactNode; also?: RegExp }[] = [
  { to: "/board", words: "Board", icon: <ScheduleOutlined />, also: /^\/rounds\// },
  { to: "/scenes", words: "Scenes", icon: <BlockOutlined /> },
  { to: "/jobs", words: "Jobs", icon: <FileTextOutlined /> },
  { to: "/queue", words: "Queue", icon: <BarsOutlined /> },
  { to: "/library", words: "Library", icon: <AppstoreOutlined /> },
];

export function Frame() {
  const at = useLocation();
  return (
    <div className={styles.frame}>
      <nav className={styles.rail} aria-label="Main">
        <Link className={styles.mark} to="/board" aria-label="Amber Proof">
          <img src="/mark.svg" width="28" height="28" alt="" />
        </Link>
        {pages.map((p) => (
          <NavLink
            key={p.to}
            to={p.to}
            className={({ isActive }) => (isActive || p.also?.test(at.pathname) ? "active" : "")}
          >
            {p.icon}
            {p.words}
          </NavLink>
        ))}
        <Keys />
      </nav>
      <header className={styles.head}>
        <ProjectSwitch />
        <div className={styles.where} id="where" />
        <div className={styles.right}>
          <Going />
          <Who />
        </div>
      </header>
      <main className={styles.page}>
        <ErrorBoundary key={at.pathname}>
          <Suspense fallback={<div className={bits.empty}>Opening the page</div>}>
            <Outlet />
          </Suspense>
        </ErrorBoundary>
      </main>
      {/* Open lists and hints stand here, where readers of the page find them. */}
      <aside id="popups" aria-label="Open lists and hints" />
    </div>
  );
}
