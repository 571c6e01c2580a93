// What a browser has and jsdom lacks, for all tests.
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// What must come may take its time on a slow machine.
configure({ asyncUtilTimeout: 20_000 });

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
