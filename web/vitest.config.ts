import { defineConfig } from "vitest/config";

import { alias, source } from "./vite.source.ts";

// What packs and unpacks streams, which a page made by vmThreads has not.
const streams = ["**/along/*.test.ts"];

const common = {
  environment: "jsdom",
  css: true,
  setupFiles: ["./test-setup.ts"],
  testTimeout: 60_000, // a slow machine is no defect
};

export default defineConfig({
  plugins: [source()],
  resolve: { alias },
  test: {
    maxWorkers: "100%", // one less by itself, which is half of a small machine
    projects: [
      {
        extends: true,
        // Each file has a page of its own all the same; the page itself is read once.
        test: {
          ...common,
          name: "pages",
          pool: "vmThreads",
          include: ["**/*.test.ts", "**/*.test.tsx"],
          exclude: ["**/node_modules/**", ...streams],
        },
      },
      { extends: true, test: { ...common, name: "streams", pool: "forks", include: streams } },
    ],
  },
});
