import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** scoped names a style by its sheet. */
function scoped(name: string, sheet: string) {
  return `${/([^/]+)\.module\.css/.exec(sheet)?.[1]}_${name}`;
}

/** newestFonts keeps of each face the form that every browser of today reads. */
const newestFonts = {
  name: "newest-fonts",
  enforce: "pre" as const,
  transform: (code: string, id: string) =>
    id.includes("@fontsource") && id.endsWith(".css")
      ? { code: code.replace(/,\s*url\([^)]*\.woff\)\s*format\(['"]woff['"]\)/g, ""), map: null }
      : null,
};

export default defineConfig({
  plugins: [newestFonts, react()],
  // The placeholder that lets the server embed an unbuilt folder stays.
  // Names that can be read in the browser; two of one name would be seen at once.
  css: { modules: { localsConvention: "camelCaseOnly", generateScopedName: scoped } },
  build: {
    emptyOutDir: true,
    chunkSizeWarningLimit: 1500,
    // The page of who looks by a link is one of its own, so that it stays small.
    rollupOptions: { input: ["index.html", "look.html"] },
  },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8460", ws: true } } },
});
