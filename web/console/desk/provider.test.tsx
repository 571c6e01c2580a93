import { act, screen } from "@testing-library/react";
import { createRef } from "react";
import { afterEach, expect, it, vi } from "vitest";

import { draw, leave } from "./drawn";
import { FakeServer } from "./fake-desk";
import { StandingClock, useNow } from "./provider";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

afterEach(() => {
  leave();
  vi.useRealTimers();
});

function Clock({ name }: { name: string }) {
  return <p aria-label={name}>{useNow()}</p>;
}

it("lets clocks stand where somebody scrolls, and nowhere else, and go on afterwards", async () => {
  vi.useFakeTimers({ toFake: ["Date", "setInterval", "clearInterval"] });
  const standing = createRef<number>() as { current: number | undefined };
  await draw(
    new FakeServer(),
    <>
      <StandingClock value={standing}>
        <Clock name="in the list" />
      </StandingClock>
      <Clock name="elsewhere" />
    </>,
  );
  const reads = (name: string) => Number(screen.getByLabelText(name).textContent);
  const began = reads("in the list");
  standing.current = began;
  act(() => vi.advanceTimersByTime(5000));
  expect(reads("in the list")).toBe(began);
  expect(reads("elsewhere")).toBe(began + 5000);
  standing.current = undefined;
  act(() => vi.advanceTimersByTime(1000));
  expect(reads("in the list")).toBe(began + 6000);
});
