import { defineConfig } from "vite";

// What keeps the console's own files in the browser, as one script at /worker.js.
export default defineConfig({
  build: {
    outDir: "dist/loader",
    emptyOutDir: false,
    target: "es2022",
    lib: {
      entry: "worker/worker.ts",
      formats: ["es"],
      fileName: () => "worker.js",
    },
  },
});
