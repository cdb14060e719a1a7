import { Navigate, Route, Routes } from "react-router";
import { JobPage } from "../jobs/JobPage";
import { JobsPage } from "../jobs/JobsPage";
import { LibraryPage } from "../library/LibraryPage";
import { ProofPage } from "../proof/ProofPage";
import { QueuePage } from "../queue/QueuePage";
import { ScenePage } from "../scenes/ScenePage";
import { ScenesPage } from "../scenes/ScenesPage";
import { Frame } from "./Frame";
import bits from "../shared/bits.module.css";

export function Pages() {
  return (
    <Routes>
      <Route element={<Frame />}>
        <Route index element={<Navigate to="/jobs" replace />} />
        <Route path="scenes" element={<ScenesPage />} />
        <Route path="scenes/:id" element={<ScenePage />} />
        <Route path="jobs" element={<JobsPage />} />
        <Route path="jobs/:id" element={<JobPage />} />
        <Route path="runs/:id" element={<ProofPage />} />
        <Route path="queue" element={<QueuePage />} />
        <Route path="library" element={<LibraryPage />} />
        <Route path="*" element={<div className={bits.empty}>There is nothing at this address.</div>} />
      </Route>
    </Routes>
  );
}
