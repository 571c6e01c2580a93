import { describe, expect, it } from "vitest";

import { wholeBlocks } from "./virtual-lines";

const drawn = (startIndex: number, endIndex: number, count: number) =>
  wholeBlocks({ startIndex, endIndex, overscan: 2, count });

describe("The lines that are drawn", () => {
  it("hold all in view and some around, wherever one has scrolled to", () => {
    for (let start = 0; start < 60; start++) {
      const lines = drawn(start, Math.min(start + 21, 99), 100);
      expect(lines[0]).toBeLessThanOrEqual(Math.max(0, start - 2));
      expect(lines.at(-1)).toBeGreaterThanOrEqual(Math.min(99, start + 23));
      expect(lines).toEqual(lines.map((_, i) => (lines[0] ?? 0) + i));
    }
  });

  it("stay the same while one scrolls by less than a block", () => {
    let changes = 0;
    for (let start = 10; start < 50; start++)
      if (drawn(start, start + 21, 1000).join() !== drawn(start + 1, start + 22, 1000).join()) changes++;
    expect(changes).toBe(20); // forty lines: ten blocks come, ten go
  });

  it("end with the list", () => {
    expect(drawn(0, 0, 0)).toEqual([]);
    expect(drawn(0, 2, 3)).toEqual([0, 1, 2]);
  });
});
