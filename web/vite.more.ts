import { defineConfig } from "vite";

// What the loader brings in when it is wanted, as one module.
export default defineConfig({
  build: {
    outDir: "dist/loader",
    emptyOutDir: false,
    target: "es2020",
    lib: {
      entry: "widget/loader/more.ts",
      formats: ["es"],
      fileName: () => "stoop-more.js",
    },
  },
});
