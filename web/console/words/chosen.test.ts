import { afterEach, expect, it, vi } from "vitest";

import { kept } from "../../shared/storage";
import { adoptLanguage } from "./chosen";

afterEach(() => vi.restoreAllMocks());

it("does not read the page anew, without end, where nothing can be kept", () => {
  vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
    throw new Error("no room");
  });
  adoptLanguage("de");
  expect(kept("stoop.language")).toBeNull();
});
