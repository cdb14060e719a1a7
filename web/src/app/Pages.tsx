import { lazy } from "react";
import { Navigate, Route, Routes } from "react-router";
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
const QueuePage = lazy(() => import("../queue/QueuePage").then((m) => ({ default: m.QueuePage })));
const ProjectPage = lazy(() => import("../project/ProjectPage").then((m) => ({ default: m.ProjectPage })));
const LibraryPage = lazy(() => import("../library/LibraryPage").then((m) => ({ default: m.LibraryPage })));

export function Pages() {
  return (
    <Routes>
      <Route element={<Frame />}>
        <Route index element={<Navigate to="/board" replace />} />
        <Route path="board" element={<BoardPage />} />
        <Route path="rounds/:id" element={<RoundPage />} />
        <Route path="scenes" element={<ScenesPage />} />
        <Route path="scenes/:id" element={<ScenePage />} />
        <Route path="jobs" element={<JobsPage />} />
        <Route path="jobs/:id" element={<JobPage />} />
        <Route path="runs/:id" element={<ProofPage />} />
        <Route path="queue" element={<QueuePage />} />
        <Route path="library" element={<LibraryPage />} />
        <Route path="project" element={<ProjectPage />} />
        <Route path="*" element={<div className={bits.empty}>There is nothing at this address.</div>} />
      </Route>
    </Routes>
  );
}
