import { beforeEach, describe, expect, it } from "vitest";

import type { ChatView } from "../../../shared/types";
import { chooseLanes, keptLanes, LaneBook } from "./lanes";
import { readClock } from "../reply-clock";

function bookOf(operatorId: string): LaneBook {
  let lanes = keptLanes(operatorId);
  return new LaneBook(
    operatorId,
    () => lanes,
    (changed) => (lanes = changed),
  );
}

describe("lanes", () => {
  beforeEach(() => localStorage.clear());

  it("keep their numbers while others come and go, and over a reload", () => {
    const book = bookOf("maren");
    for (const id of ["a", "b", "c"]) book.open(id);
    book.close("b");
    expect([book.numberOf("a"), book.numberOf("c")]).toEqual([1, 3]);
    book.open("d");
    expect(book.numberOf("d")).toBe(2);
    expect(bookOf("maren").list()).toEqual(["a", "d", "c"]);
    expect(bookOf("idris").list()).toEqual([]);
  });

  it("are taken away and come back with their number, in the place where they were put", () => {
    const book = bookOf("maren");
    for (const id of ["a", "b", "c"]) book.open(id);
    book.move("c", "a");
    expect(book.list()).toEqual(["c", "a", "b"]);
    book.putAway("a");
    expect(book.showable()).toEqual(["c", "b"]);
    expect(book.numberOf("a")).toBe(1);
    expect(bookOf("maren").showable()).toEqual(["c", "b"]);
    book.open("a");
    expect(book.showable()).toEqual(["c", "a", "b"]);
    book.setOutside(new Set(["b"])); // it stands in a window of its own
    expect(book.showable()).toEqual(["c", "a"]);
    expect(book.list()).toContain("b");
  });

  it("stay where they are when there is room for only some", () => {
    expect(chooseLanes(["a", "b", "c"], ["a", "b"], ["a", "b"], 2)).toEqual(["a", "b"]);
    // c is used now: it takes the place of the one used longest ago.
    expect(chooseLanes(["a", "b", "c"], ["a", "b"], ["c", "a", "b"], 2)).toEqual(["a", "c"]);
    expect(chooseLanes(["a", "b", "c"], [], ["c"], 1)).toEqual(["c"]);
    expect(chooseLanes(["a", "b"], ["a"], ["b"], 4)).toEqual(["a", "b"]);
  });
});

it("reads the reply clock as the server would", () => {
  const since = Date.parse("2026-09-17T13:33:00Z");
  const chat = {
    turn: "team",
    turnSince: "2026-09-17T13:33:00Z",
    targetSeconds: 60,
    soonSeconds: 40,
  } as ChatView;
  expect(readClock(chat, since + 39_000).urgency).toBe("calm");
  expect(readClock(chat, since + 40_000)).toMatchObject({ urgency: "soon", leftWords: "0:20 left" });
  expect(readClock(chat, since + 60_000).urgency).toBe("soon");
  expect(readClock(chat, since + 82_000)).toMatchObject({
    urgency: "late",
    leftWords: "0:22 over",
    share: 1,
  });
  expect(readClock({ ...chat, turn: "visitor" }, since + 82_000).urgency).toBe("calm");
  expect(readClock(chat, since - 5000).running).toBe(0); // a clock that runs behind the server's
});
