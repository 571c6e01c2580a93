import { cleanup, render, screen } from "@testing-library/react";
import { lazy } from "react";
import { afterEach, expect, it, vi } from "vitest";

import { Lazily } from "./lazily";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it("says that a part could not be loaded, and leaves all around it alone", async () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined); // React tells it there as well
  const Broken = lazy(() => Promise.reject(new TypeError("Failed to fetch dynamically imported module")));
  render(
    <>
      <p>The line</p>
      <Lazily>
        <Broken />
      </Lazily>
    </>,
  );
  expect((await screen.findByRole("alert")).textContent).toContain("could not be loaded");
  expect(screen.getByRole("button", { name: "Reload" })).toBeTruthy();
  expect(screen.getByText("The line")).toBeTruthy();
});
