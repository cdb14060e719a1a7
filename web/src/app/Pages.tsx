import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { ApiError } from "../api/http";
import { useMe } from "../api/projects";
import { Frame } from "./Frame";
import bits from "../shared/bits.module.css";

// Each page is loaded when it is visited.
const BoardPage = lazy(() => import("../rounds/BoardPage").then((m) => ({ default: m.BoardPage })));
const RoundPage = lazy(() => import("../rounds/RoundPage").then((m) => ({ default: m.RoundPage })));
const ScenesPage = lazy(() => import("../scenes/ScenesPage").then((m) => ({ default: m.ScenesPage })));
const ScenePage = lazy(() => import("../scenes/ScenePage").then((m) => ({ default: m.ScenePage })));
const JobsPage = lazy(() => import("../jobs/JobsPage").then((m) => ({ default: m.JobsPage })));
const JobPage = lazy(() => import("../jobs/JobPage").then((m) => ({ default: m.JobPage })));
const ProofPage = lazy(() => import("../proof/ProofPage").then((m) => ({ default: m.ProofPage })));
const NoisePage = lazy(() => import("../noise/NoisePage").then((m) => ({ default: m.NoisePage })));
const QueuePage = lazy(() => import("../queue/QueuePage").then((m) => ({ default: m.QueuePage })));
const ProjectPage = lazy(() => import("../project/ProjectPage").then((m) => ({ default: m.ProjectPage })));
const LibraryPage = lazy(() => import("../library/LibraryPage").then((m) => ({ default: m.LibraryPage })));

const SignInPage = lazy(() => import("../door/SignInPage").then((m) => ({ default: m.SignInPage })));
const InvitedPage = lazy(() => import("../door/InvitedPage").then((m) => ({ default: m.InvitedPage })));

/** Inside is what people see who are signed in. */
function Inside() {
  const me = useMe();
  if (me.error instanceof ApiError && me.error.status === 401) return <SignInPage />;
  return <Frame />;
}

export function Pages() {
  return (
    <Suspense fallback={null}>
      <Routes>
        <Route path="invited" element={<InvitedPage />} />
        <Route element={<Inside />}>
          <Route index element={<Navigate to="/board" replace />} />
          <Route path="board" element={<BoardPage />} />
          <Route path="rounds/:id" element={<RoundPage />} />
          <Route path="scenes" element={<ScenesPage />} />
          <Route path="scenes/:id" element={<ScenePage />} />
          <Route path="jobs" element={<JobsPage />} />
          <Route path="jobs/:id" element={<JobPage />} />
          <Route path="runs/:id" element={<ProofPage />} />
          <Route path="runs/:id/noise" element={<NoisePage />} />
          <Route path="queue" element={<QueuePage />} />
          <Route path="library" element={<LibraryPage />} />
          <Route path="project" element={<ProjectPage />} />
          <Route path="*" element={<div className={bits.empty}>There is nothing at this address.</div>} />
        </Route>
      </Routes>
    </Suspense>
  );
}
