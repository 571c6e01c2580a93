import { expect, it } from "vitest";

import { splitAtWords } from "./mark-words";

const hits = (text: string, words: string) =>
  splitAtWords(text, words)
    .filter((p) => p.hit)
    .map((p) => p.text);

it("marks what the search matched: words by their beginnings, in any case", () => {
  expect(hits("A minibus, two Minibuses and an omnibus", "mini")).toEqual(["minibus", "Minibuses"]);
  expect(hits("It's KF-20417", "kf-20417 it's")).toEqual(["It's", "KF-20417"]);
  expect(hits("anything", "")).toEqual([]);
  expect(hits("a.b (c)* [d]", "(c)* [d]")).toEqual(["(c)*", "[d]"]);
});

it("loses no character", () => {
  for (const text of ["", "a  b\nc", "שלום minibus 🚢", "...minibus"]) {
    expect(
      splitAtWords(text, "minibus b")
        .map((p) => p.text)
        .join(""),
    ).toBe(text);
  }
});
