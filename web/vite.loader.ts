import { defineConfig } from "vite";

export default defineConfig({
  build: {
    outDir: "dist/loader",
    emptyOutDir: true,
    target: "es2020",
    lib: {
      entry: "widget/loader/loader.ts",
      formats: ["iife"],
      name: "stoopLoader",
      fileName: () => "stoop.js",
    },
  },
});
