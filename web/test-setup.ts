// What a browser has and jsdom lacks, for all tests.
import { i18n } from "@lingui/core";
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// Tests read English, which is what stands in the source.
i18n.loadAndActivate({ locale: "en", messages: {} });

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
window.matchMedia ??= (media: string) =>
  Object.assign(new EventTarget(), { media, matches: false }) as MediaQueryList;
URL.createObjectURL ??= () => "blob:picture";
URL.revokeObjectURL ??= () => undefined;

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

// jsdom knows style sheets that scripts make, and no place to put them.
Object.defineProperty(document, "adoptedStyleSheets", { value: [], writable: true });
