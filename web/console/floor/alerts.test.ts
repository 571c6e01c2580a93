import { describe, expect, it } from "vitest";

import type { AlertView } from "../../shared/types";
import { alertWords } from "./alerts";

const ten = Date.parse("2026-09-17T10:00:00Z");

const alert = (part: Partial<AlertView>): AlertView => ({
  id: "1",
  kind: "wait",
  departmentId: "help",
  departmentName: "Travel help",
  raisedAt: new Date(ten).toISOString(),
  worst: 0,
  over: 180,
  ...part,
});

const over = { endedAt: new Date(ten + 240_000).toISOString() };

describe("what a lead is called for, in words", () => {
  it("says the limit while it lasts, and the worst once it is over", () => {
    expect(alertWords(alert({ worst: 200 }), ten)).toBe("somebody has waited longer than 3:00");
    expect(alertWords(alert({ worst: 425, ...over }), ten)).toBe("somebody waited 7:05");
    expect(alertWords(alert({ kind: "queue", over: 5, worst: 9 }), ten)).toBe("5 or more are waiting");
    expect(alertWords(alert({ kind: "queue", over: 5, worst: 9, ...over }), ten)).toBe(
      "up to 9 were waiting",
    );
  });

  it("counts from when nobody was there any more, not from the call", () => {
    const nobody = alert({ kind: "nobody", over: 300 });
    expect(alertWords(nobody, ten + 60_000)).toBe("nobody available for 6:00");
    expect(alertWords({ ...nobody, ...over }, ten + 9e6)).toBe("nobody was available for 9:00");
  });

  it("names who rated, if they said", () => {
    expect(alertWords(alert({ kind: "rating", worst: 1, visitor: "Wren Castellane" }), ten)).toBe(
      "Wren Castellane rated a chat 1 of 5",
    );
    expect(alertWords(alert({ kind: "rating", worst: 2 }), ten)).toBe("a visitor rated a chat 2 of 5");
  });
});
