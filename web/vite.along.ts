import { defineConfig } from "vite";

// What records a page while somebody looks along, as one module.
export default defineConfig({
  build: {
    outDir: "dist/loader",
    emptyOutDir: false,
    target: "es2020",
    lib: {
      entry: "widget/along/along.ts",
      formats: ["es"],
      fileName: () => "stoop-along.js",
    },
  },
});
