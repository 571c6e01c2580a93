import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    environment: "jsdom",
    css: true,
    include: ["**/*.test.ts", "**/*.test.tsx"],
    setupFiles: ["./test-setup.ts"],
    testTimeout: 60_000, // a slow machine is no defect
  },
});
