import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { chat } from "../desk/fake-desk";
import { Notices, usual } from "./notices";
import { arrivals, play } from "./sounds";

vi.mock("./sounds", async (original) => ({
  ...(await original<typeof import("./sounds")>()),
  play: vi.fn(),
  unlockSound: vi.fn(),
}));

const rings = () => vi.mocked(play).mock.calls.length;
const second = 1000;

describe("who waits is heard", () => {
  let now = Date.parse("2026-09-17T13:33:00Z");
  let notices: Notices;
  // Looks every second, as the console does, and says at which seconds it rang.
  const rangWithin = (seconds: number, waiting = 1) => {
    const at: number[] = [];
    for (let i = 1; i <= seconds; i++) {
      now += second;
      vi.setSystemTime(now);
      const before = rings();
      notices.stillWaits(waiting, now);
      if (rings() > before) at.push(i);
    }
    return at;
  };
  beforeEach(() => {
    vi.useFakeTimers({ now });
    vi.mocked(play).mockClear();
    notices = new Notices(); // with no other tab, it speaks
  });
  afterEach(() => {
    notices.close();
    vi.useRealTimers();
  });

  it("again and again at growing pauses, until somebody takes it", () => {
    notices.arrived(chat("wren"), true);
    expect(rings()).toBe(1);
    expect(rangWithin(240)).toEqual([15, 45, 105, 225]);
    expect(rangWithin(60, 0)).toEqual([]);
    // Somebody new begins with short pauses.
    notices.arrived(chat("oskar"), true);
    expect(rangWithin(20)).toEqual([15]);
  });

  it("also by a lead who takes no chats, in a sound of its own", () => {
    notices.prefer({ ...usual, sound: "steps", alertSound: "ferry" });
    notices.arrived(chat("wren"), false);
    expect(rings()).toBe(0);
    notices.called("Freight", "nobody available for 5:00", "alert-1");
    expect(rings()).toBe(1);
    expect(vi.mocked(play).mock.calls[0]?.[0]).toBe(arrivals.ferry?.tones);
    notices.prefer({ ...usual, alertSound: "none" });
    notices.called("Freight", "nobody available for 9:00", "alert-2");
    expect(rings()).toBe(1);
  });

  it("once only, if that is what was chosen", () => {
    notices.prefer({ ...usual, ringAgain: false });
    notices.arrived(chat("wren"), true);
    expect(rangWithin(600)).toEqual([]);
  });

  it("not by who is away, nor in a tab that has closed", () => {
    notices.arrived(chat("wren"), false);
    expect(rings()).toBe(0);
    notices.close();
    notices.arrived(chat("wren"), true);
    expect(rangWithin(60)).toEqual([]);
    expect(rings()).toBe(0);
  });
});
