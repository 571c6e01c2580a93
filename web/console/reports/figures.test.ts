import { describe, expect, it } from "vitest";

import type { ChatFigures } from "../../shared/types";
import {
  amountWords,
  countChange,
  moneyIn,
  ratingChange,
  seconds,
  shareChange,
  shareWords,
  surely,
  timeChange,
} from "./figures";

const share = (hits: number, of: number, low = 0, high = 1) => ({
  hits,
  of,
  share: of ? hits / of : 0,
  low,
  high,
});

describe("a figure", () => {
  it("of few chats is a count, not a share that means nothing", () => {
    expect(shareWords(share(0, 0))).toBe("–");
    expect(shareWords(share(2, 3))).toBe("2 of 3");
    expect(shareWords(share(9, 10))).toBe("90%");
    expect(surely(share(0, 0))).toBe("none yet");
    expect(surely(share(2, 3, 0.2, 0.9))).toBe("too few for a share");
    expect(surely(share(91, 100, 0.838, 0.952))).toBe("surely 84% to 95%");
  });

  it("that is no time is a dash, and otherwise a clock", () => {
    expect(seconds(undefined)).toBe("–");
    expect(seconds(0)).toBe("0:00");
    expect(seconds(59.6)).toBe("1:00");
    expect(seconds(3661)).toBe("1:01:01");
  });

  // ISO 4217: the yen has no smaller unit, the Kuwaiti dinar a thousandth.
  it("of money has the places of its currency", () => {
    expect(moneyIn(2787260, "EUR")).toBe("€27,873");
    expect(moneyIn(2787260, "EUR", false)).toBe("€27,872.60");
    expect(moneyIn(1500, "JPY", false)).toMatch(/¥1,500$/);
    expect(moneyIn(1500, "KWD", false).replace(/\s/, " ")).toBe("KWD 1.500");
    expect(amountWords([])).toBe("–");
    const both = [
      { cents: 1000, currency: "EUR" },
      { cents: 5000, currency: "DKK" },
    ];
    expect(amountWords(both).replace(/\s/g, " ")).toBe("€10, DKK 50");
  });
});

describe("how a figure moved", () => {
  it("is not said of few", () => {
    expect(countChange(50, 9)).toBeUndefined();
    expect(countChange(50, undefined)).toBeUndefined();
    expect(shareChange(share(5, 9), share(90, 100))).toBeUndefined();
    expect(shareChange(share(50, 90), share(5, 9))).toBeUndefined();
    expect(timeChange({ n: 40, median: 20 }, { n: 9, median: 10 })).toBeUndefined();
    expect(timeChange({ n: 40 }, { n: 40, median: 10 })).toBeUndefined();
  });

  it("is neither good nor bad of how many chats came", () => {
    expect(countChange(124, 100)).toEqual({ words: "24% more", way: "up" });
    expect(countChange(75, 100)).toEqual({ words: "25% fewer", way: "down" });
    expect(countChange(1001, 1000)).toEqual({ words: "as before", way: "even" });
  });

  it("is in points as they are shown, so that what is said adds up", () => {
    expect(shareChange(share(906, 1000), share(895, 1000))).toEqual({
      words: "1 point better",
      way: "up",
      good: true,
    });
    expect(shareChange(share(85, 100), share(91, 100))).toEqual({
      words: "6 points worse",
      way: "down",
      good: false,
    });
    expect(shareChange(share(904, 1000), share(896, 1000))).toEqual({ words: "as before", way: "even" });
  });

  it("is good of a time that fell and of a rating that rose", () => {
    expect(timeChange({ n: 40, median: 14 }, { n: 40, median: 11 })).toEqual({
      words: "0:03 slower",
      way: "up",
      good: false,
    });
    expect(timeChange({ n: 40, median: 11 }, { n: 40, median: 71 })).toEqual({
      words: "1:00 faster",
      way: "down",
      good: true,
    });
    const rated = (rating: number, of = 40) => ({ rating, good: share(30, of) }) as ChatFigures;
    expect(ratingChange(rated(4.4), rated(4.3))).toEqual({ words: "0.1 better", way: "up", good: true });
    expect(ratingChange(rated(4.32), rated(4.28))).toEqual({ words: "as before", way: "even" });
    expect(ratingChange(rated(3.9), rated(4.4))).toEqual({ words: "0.5 worse", way: "down", good: false });
    expect(ratingChange(rated(3.9, 9), rated(4.4))).toBeUndefined();
  });
});
