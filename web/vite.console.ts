import { readFileSync } from "node:fs";

import { defineConfig, type Plugin } from "vite";

import { alias, named, source } from "./vite.source.ts";

// The emoji's names are served by Stoop itself, not fetched from elsewhere.
const emoji: Plugin = {
  name: "emoji",
  generateBundle() {
    for (const file of ["data", "messages"]) {
      const source = readFileSync(`node_modules/emojibase-data/en/${file}.json`);
      this.emitFile({ type: "asset", fileName: `assets/emoji-17/en/${file}.json`, source });
    }
  },
};

export default defineConfig({
  root: "console",
  plugins: [source(), emoji],
  resolve: { alias },
  build: {
    outDir: "../dist/console",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rolldownOptions: {
      input: ["console/index.html", "console/along.html"],
      output: { chunkFileNames: named("assets") },
    },
  },
});
