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

// What comes before the words are there, and what the first screen is made of, lie in a file
// each: together they squeeze better than in seventy, and are asked for at once.
const begins = new Set<string>();
const first = new Set<string>();

const loadedTogether: Plugin = {
  name: "loaded-together",
  buildEnd() {
    const reach = (from: RegExp, reached: Set<string>) => {
      const open = [...this.getModuleIds()].filter((id) => from.test(id));
      for (let id = open.pop(); id !== undefined; id = open.pop()) {
        if (reached.has(id)) continue;
        reached.add(id);
        open.push(...(this.getModuleInfo(id)?.importedIds ?? []));
      }
    };
    reach(/\/console\/main\.tsx$/, begins);
    reach(/\/console\/start\.tsx$/, first);
  },
};

export default defineConfig({
  root: "console",
  plugins: [source(), emoji, loadedTogether],
  resolve: { alias },
  build: {
    outDir: "../dist/console",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 800,
    rolldownOptions: {
      input: ["console/index.html", "console/along.html"],
      output: {
        chunkFileNames: named("assets"),
        codeSplitting: {
          groups: [
            { name: "begin", test: (id) => begins.has(id), priority: 2 },
            { name: "first", test: (id) => first.has(id), priority: 1 },
          ],
        },
      },
    },
  },
});
