import { expect, it } from "vitest";

import raw from "../../core/form/testdata/patterns.json";
import { matches } from "./patterns";

interface Case {
  pattern: string;
  fits: string[];
  not: string[];
}

const list = raw as Case[];

it("gives the verdict of the server on each pattern of one list", () => {
  expect(list.length).toBeGreaterThan(20);
  for (const { pattern, fits, not } of list) {
    for (const answer of fits) expect(matches(pattern, answer), `${pattern} on ${answer}`).toBe(true);
    for (const answer of not) expect(matches(pattern, answer), `${pattern} on ${answer}`).toBe(false);
  }
});
