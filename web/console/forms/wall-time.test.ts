import { describe, expect, it } from "vitest";

import { momentIn, wallIn } from "./wall-time";

describe("the time on the wall", () => {
  it("is that of the team, wherever the browser stands", () => {
    const at = Date.parse("2026-07-01T10:00:00Z");
    expect(wallIn(at, "Europe/Copenhagen")).toBe("2026-07-01T12:00");
    expect(momentIn("2026-07-01T12:00", "Europe/Copenhagen")).toBe(at);
    expect(momentIn("2026-12-01T12:00", "Europe/Copenhagen")).toBe(Date.parse("2026-12-01T11:00:00Z"));
    expect(momentIn("", "Europe/Copenhagen")).toBeUndefined();
  });

  it("in the hour that summer time skips is a moment all the same", () => {
    const at = momentIn("2026-03-29T02:30", "Europe/Copenhagen") ?? 0;
    expect(new Date(at).toISOString()).toBe("2026-03-29T01:30:00.000Z");
  });
});
