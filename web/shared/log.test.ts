import { describe, expect, it } from "vitest";

import { comeFurther, emptyLog, extend, receiptOf, withMarks } from "./log";
import type { EventView } from "./types";

const event = (number: number): EventView => ({
  number,
  kind: "said",
  at: "2026-09-17T13:33:00Z",
  side: "visitor",
  by: "wren",
  name: "Wren",
  text: `message ${number}`,
});

describe("a log in the browser", () => {
  it("puts events in the order of their numbers, each once", () => {
    const first = extend(emptyLog, [event(2), event(1), event(2)]);
    expect(first.gap).toBe(false);
    const second = extend(first.log, [event(1), event(3)]);
    expect(second.log.events.map((e) => e.number)).toEqual([1, 2, 3]);
    expect(second.log.last).toBe(3);
  });

  it("notices a gap and shows nothing behind it", () => {
    const { log, gap } = extend(emptyLog, [event(1), event(3), event(4)]);
    expect(gap).toBe(true);
    expect(log.last).toBe(1);
    const healed = extend(log, [event(2), event(3), event(4)]);
    expect(healed.gap).toBe(false);
    expect(healed.log.last).toBe(4);
  });

  it("stays the same object when there is nothing new, so that nothing is drawn again", () => {
    const { log } = extend(emptyLog, [event(1)]);
    expect(extend(log, [event(1)]).log).toBe(log);
  });
});

it("tells how far a message has come", () => {
  const reader = { delivered: 5, seen: 3 };
  expect(receiptOf(3, reader, true)).toBe("seen");
  expect(receiptOf(5, reader, false)).toBe("delivered");
  expect(receiptOf(6, reader, true)).toBe("sent");
  expect(receiptOf(6, reader, false)).toBe("waiting");
});

it("marks that arrive late take nothing back", () => {
  const had = { byVisitor: { delivered: 7, seen: 4 }, byTeam: { delivered: 2, seen: 2 }, name: "had" };
  const got = { byVisitor: { delivered: 5, seen: 5 }, byTeam: { delivered: 3, seen: 1 }, name: "got" };
  expect(withMarks(got, had)).toEqual({
    byVisitor: { delivered: 7, seen: 5 },
    byTeam: { delivered: 3, seen: 2 },
    name: "got",
  });
  expect(withMarks(got, undefined)).toBe(got);
});

it("counts what is unread from the reader's latest mark", () => {
  const chat = { byVisitor: { delivered: 7, seen: 7 }, byTeam: { delivered: 6, seen: 6 }, unseen: 0 };
  const late = { byVisitor: { delivered: 7, seen: 5 }, byTeam: { delivered: 8, seen: 8 }, unseen: 2 };
  expect(comeFurther(chat, late, "byVisitor").unseen).toBe(0);
  expect(comeFurther(chat, late, "byTeam").unseen).toBe(2);
  expect(comeFurther(chat, late, "byVisitor").byTeam.seen).toBe(8);
});
