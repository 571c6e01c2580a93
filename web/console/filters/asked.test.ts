import { expect, test } from "vitest";

import { askedOf, chatsBehind } from "./asked";
import { presets, shift } from "./periods";

test("an address says which chats are meant, and what is odd in it is left out", () => {
  const address = new URLSearchParams(
    "from=2026-11-01&tag=a%2Cb&tag=c&rating=5&rating=9&hour=0&weekday=x&junk=1&waitFrom=30",
  );
  expect(askedOf(address)).toEqual({
    from: "2026-11-01",
    tag: ["a,b", "c"],
    rating: [5],
    hour: 0,
    waitFrom: 30,
  });
});

test("the chats behind a figure are those of the report, narrowed to the figure", () => {
  const to = chatsBehind(new URLSearchParams("from=2026-11-01&to=2026-11-28&department=d&against=year"), {
    from: "2026-11-03",
    to: "2026-11-03",
    ending: "missed",
  });
  expect(to).toBe("/transcripts?from=2026-11-03&to=2026-11-03&department=d&ending=missed");
});

test("periods are whole days until today", () => {
  const of = (id: string, today: string) => {
    const preset = presets().find((p) => p.id === id);
    return preset ? preset.days(today) : [];
  };
  expect(of("week", "2026-11-28")).toEqual(["2026-11-22", "2026-11-28"]);
  expect(of("weeks", "2026-03-10")).toEqual(["2026-02-11", "2026-03-10"]);
  expect(of("month", "2026-11-28")).toEqual(["2026-11-01", "2026-11-28"]);
  expect(of("lastMonth", "2026-03-31")).toEqual(["2026-02-01", "2026-02-28"]);
  expect(of("lastMonth", "2026-01-15")).toEqual(["2025-12-01", "2025-12-31"]);
  expect(of("year", "2026-11-28")).toEqual(["2025-11-29", "2026-11-28"]);
  expect(shift("2026-03-29", -1)).toBe("2026-03-28");
});
