import { readFileSync } from "node:fs";

import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

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
  plugins: [react(), emoji],
  build: {
    outDir: "../dist/console",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
  },
});
