// What a browser has and jsdom lacks, for all tests.
import { cleanup } from "@testing-library/react";
import { afterEach, vi } from "vitest";

Element.prototype.scrollIntoView ??= () => undefined;
globalThis.ResizeObserver ??= class {
  observe() {
    // Nothing has a size here.
  }
  unobserve() {
    // As above.
  }
  disconnect() {
    // As above.
  }
};
URL.createObjectURL ??= () => "blob:picture";
URL.revokeObjectURL ??= () => undefined;

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
