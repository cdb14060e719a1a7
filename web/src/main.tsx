import "@fontsource/archivo/latin-400.css";
import "@fontsource/archivo/latin-500.css";
import "@fontsource/archivo/latin-600.css";
import "@fontsource/archivo-narrow/latin-400.css";
import "@fontsource/archivo-narrow/latin-600.css";
import "@fontsource/spline-sans-mono/latin-400.css";
import "./app/base.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { queryClient } from "./api/http";
import { listen } from "./api/live";
import { Pages } from "./app/Pages";
import { antTheme } from "./shared/theme";
import { publish } from "./shared/tones";

void import("./app/otherScripts");
publish(document.documentElement);
listen();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <ConfigProvider
        theme={antTheme}
        wave={{ disabled: true }}
        getPopupContainer={() => document.getElementById("popups") ?? document.body}
      >
        <AntApp style={{ height: "100%" }}>
          <BrowserRouter>
            <Pages />
          </BrowserRouter>
        </AntApp>
      </ConfigProvider>
    </QueryClientProvider>
  </StrictMode>,
);
