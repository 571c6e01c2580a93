import { defineConfig } from "vitest/config";

import { alias, source } from "./vite.source.ts";

export default defineConfig({
  plugins: [source()],
  resolve: { alias },
  test: {
    environment: "jsdom",
    css: true,
    include: ["**/*.test.ts", "**/*.test.tsx"],
    setupFiles: ["./test-setup.ts"],
    maxWorkers: "100%", // one less by itself, which is half of a small machine
    testTimeout: 60_000, // a slow machine is no defect
  },
});
