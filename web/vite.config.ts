import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** scoped names a style by its sheet. */
function scoped(name: string, sheet: string) {
  return `${/([^/]+)\.module\.css/.exec(sheet)?.[1]}_${name}`;
}

export default defineConfig({
  plugins: [react()],
  // The placeholder that lets the server embed an unbuilt folder stays.
  // Names that can be read in the browser; two of one name would be seen at once.
  css: { modules: { localsConvention: "camelCaseOnly", generateScopedName: scoped } },
  build: { emptyOutDir: true, chunkSizeWarningLimit: 1500 },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8460", ws: true } } },
});
