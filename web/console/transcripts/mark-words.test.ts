import { expect, it } from "vitest";

import cases from "../../../core/search/testdata/marked.json";
import { splitAtTerms } from "./mark-words";

it("marks what the server's search finds", () => {
  for (const { text, search, hits, terms } of cases) {
    const pieces = splitAtTerms(text, terms);
    expect(
      pieces.filter((p) => p.hit).map((p) => p.text),
      `${search} in ${text}`,
    ).toEqual(hits);
    expect(pieces.map((p) => p.text).join("")).toBe(text);
  }
});

it("loses no character", () => {
  for (const text of ["", "a  b\nc", "שלום minibus 🚢", "...minibus"]) {
    expect(
      splitAtTerms(text, [{ words: ["minibus"], prefix: true }])
        .map((p) => p.text)
        .join(""),
    ).toBe(text);
  }
});
