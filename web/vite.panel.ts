import { defineConfig } from "vite";

import { named, source } from "./vite.source.ts";

// The panel is written against React's interface and runs on Preact, which
// keeps what a visitor downloads small.
export default defineConfig({
  root: "widget/panel",
  plugins: [source("lingui.visitors.ts")],
  resolve: {
    alias: {
      "react/jsx-runtime": "preact/jsx-runtime",
      "react-dom/client": "preact/compat/client",
      "react-dom": "preact/compat",
      react: "preact/compat",
    },
  },
  build: {
    outDir: "../../dist/panel",
    assetsDir: "panel-assets",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rolldownOptions: {
      input: ["widget/panel/index.html", "widget/panel/preview.html"],
      output: { chunkFileNames: named("panel-assets") },
    },
  },
});
