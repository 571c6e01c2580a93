import { describe, expect, it } from "vitest";

import type { EventView } from "../../shared/types";
import { said } from "./fake-desk";
import { translationsOf } from "./translation";

const event = (number: number, more: Partial<EventView>): EventView => ({ ...said(number, ""), ...more });
const german = (text: string) => ({ language: "de", text });

describe("how the other side reads words", () => {
  it("is the last translation of the words as they stand", () => {
    const found = translationsOf([
      said(2, "Guten Tag"),
      event(3, { kind: "translated", upTo: 2, translation: { language: "en", text: "Good day" } }),
      event(4, { side: "team", text: "Hello", translation: german("Hallo") }),
      event(5, { side: "team", kind: "corrected", upTo: 4, text: "Hi", translation: german("He") }),
      said(6, "Wann?"),
      event(7, { kind: "translated", upTo: 6, translation: { language: "en", text: "" } }),
    ]);
    expect([...found].map(([n, { text }]) => [n, text])).toEqual([
      [2, "Good day"],
      [4, "He"],
    ]);
  });

  it("is nobody's once the words were corrected, until they are translated anew", () => {
    const log = [
      said(2, "Guten Tg"),
      event(3, { kind: "translated", upTo: 2, translation: { language: "en", text: "Good dy" } }),
      event(4, { kind: "corrected", upTo: 2, text: "Guten Tag" }),
    ];
    expect(translationsOf(log).has(2)).toBe(false);
    const anew = event(5, { kind: "translated", upTo: 2, translation: { language: "en", text: "Good day" } });
    expect(translationsOf([...log, anew]).get(2)?.text).toBe("Good day");
  });
});
