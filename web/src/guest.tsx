import "@fontsource/archivo/latin-400.css";
import "@fontsource/archivo/latin-600.css";
import "@fontsource/archivo-narrow/latin-600.css";
import "@fontsource/spline-sans-mono/latin-400.css";
import "./guest/guest.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Guest } from "./guest/Guest";
import { publish } from "./shared/tones";

publish(document.documentElement);
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Guest />
  </StrictMode>,
);
