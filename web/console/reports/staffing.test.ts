import { expect, it } from "vitest";

import { momentOf } from "./roster";
import { stretches } from "./staffing";

const slot = (at: string, needed: number, rostered: number) => ({
  at,
  needed,
  rostered,
  chats: 3,
  low: 0,
  high: 9,
  days: 12,
  shared: 0,
  load: 1,
  atOnce: 1,
  within: 0.5,
  waits: 0.4,
  abandon: 0.1,
});

it("says each shortage once, for as long as it lasts", () => {
  const list = stretches([
    slot("2026-11-28T13:00:00Z", 5, 3),
    slot("2026-11-28T13:30:00Z", 5, 3),
    slot("2026-11-28T14:00:00Z", 4, 3),
    slot("2026-11-28T14:30:00Z", 3, 3),
    slot("2026-11-28T15:00:00Z", 4, 3),
  ]);
  expect(list.map((s) => [s.from.slice(11, 16), s.to.slice(11, 16), s.needed, s.slots])).toEqual([
    ["13:00", "14:00", 5, 2],
    ["14:00", "14:30", 4, 1],
    ["15:00", "15:30", 4, 1],
  ]);
});

it("knows when the clocks of a zone show a time, also on the days on which they change", () => {
  expect(momentOf("2026-11-28", "08:00", "Europe/Copenhagen")).toBe("2026-11-28T07:00:00.000Z");
  expect(momentOf("2026-07-01", "08:00", "Europe/Copenhagen")).toBe("2026-07-01T06:00:00.000Z");
  expect(momentOf("2026-03-29", "08:00", "Europe/Copenhagen")).toBe("2026-03-29T06:00:00.000Z");
  expect(momentOf("2026-10-25", "00:30", "Europe/Copenhagen")).toBe("2026-10-24T22:30:00.000Z");
});
