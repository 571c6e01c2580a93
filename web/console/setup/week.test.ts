import { expect, it } from "vitest";

import { inMinutes, lengthOf, nextSpan, readClock, sortWeek, todayIn } from "./week";
import { readFacts } from "./try-rules";

it("completes what somebody types as a time, and leaves nonsense to be refused", () => {
  expect(["8", "08", "830", "2230", "8:5", "8.30", " 24 "].map(readClock)).toEqual([
    "08:00",
    "08:00",
    "08:30",
    "22:30",
    "08:05",
    "08:30",
    "24:00",
  ]);
  expect(readClock("noon")).toBe("noon");
});

it("knows how long a period lasts, over midnight too", () => {
  expect(lengthOf({ day: 1, from: "08:00", to: "12:30" })).toBe(270);
  expect(lengthOf({ day: 1, from: "22:00", to: "04:30" })).toBe(390);
  expect(lengthOf({ day: 1, from: "00:00", to: "24:00" })).toBe(1440);
  expect(inMinutes("nonsense")).toBe(0);
});

it("reads a week from Monday to Sunday", () => {
  const week = [
    { day: 0, from: "08:00", to: "12:00" },
    { day: 1, from: "13:00", to: "17:00" },
    { day: 1, from: "08:00", to: "12:00" },
  ];
  expect(sortWeek(week).map((p) => `${p.day} ${p.from}`)).toEqual(["1 08:00", "1 13:00", "0 08:00"]);
});

it("reads facts as they are typed, one to a line", () => {
  expect(readFacts("language=da\n form.topic = Cars=fast \nnonsense\n=x")).toEqual({
    language: "da",
    "form.topic": "Cars=fast",
  });
});

it("knows what day it is in the zone of the hours, not here", () => {
  const now = new Date("2026-12-24T23:30:00Z");
  expect(todayIn("Pacific/Auckland", now)).toBe("2026-12-25");
  expect(todayIn("America/New_York", now)).toBe("2026-12-24");
  expect(todayIn("Nowhere/At_All", now)).toMatch(/^2026-12-2[45]$/);
});

it("adds times behind those that a day has, whatever their order", () => {
  expect(nextSpan([])).toEqual({ from: "10:00", to: "14:00" });
  expect(
    nextSpan([
      { from: "13:00", to: "17:00" },
      { from: "09:00", to: "12:00" },
    ]),
  ).toEqual({ from: "17:00", to: "21:00" });
  expect(nextSpan([{ from: "20:00", to: "23:30" }])).toEqual({ from: "23:30", to: "24:00" });
});
