import { describe, expect, it } from "vitest";

import type { Suggestion } from "../../shared/types";
import { inserted, listStart, stillMissing } from "./suggestions";

const hold = { text: "We can hold your seats.", match: "We can h", shortcut: "hold" } as Suggestion;

describe("canned responses in the composer", () => {
  it("replace only what they continue", () => {
    expect(inserted("Good news! We can h", hold, undefined)).toBe("Good news! We can hold your seats.");
    expect(inserted("Yes ;hold se", { ...hold, match: "" }, 4)).toBe("Yes We can hold your seats.");
  });

  it("are listed after a semicolon that begins a word", () => {
    expect(listStart(";")).toBe(0);
    expect(listStart("Yes ;group fare")).toBe(4);
    expect(listStart("a;b")).toBeUndefined(); // within a word it is a semicolon
    expect(listStart("first; then")).toBeUndefined();
    expect(listStart("; and then")).toBeUndefined(); // a space after it: it ends a clause
    expect(listStart(";hold. And more")).toBeUndefined();
    expect(listStart("no list")).toBeUndefined();
  });

  it("do not go out with a placeholder left in them", () => {
    expect(stillMissing("I have {form.booking} here", ["form.booking"])).toEqual(["form.booking"]);
    expect(stillMissing("I have KF-20417 here", ["form.booking"])).toEqual([]);
    expect(stillMissing("I have { form.booking }", ["form.booking"])).toEqual(["form.booking"]);
    // A field may be named with what means something else in a pattern.
    expect(stillMissing("I have {form.a(b+} or {formXa}", ["form.a(b+", "form.a"])).toEqual(["form.a(b+"]);
  });
});
