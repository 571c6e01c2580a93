import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { useTypedWords } from "./typed-words";

/** A field of a search whose address is the test's. */
function field(words = "") {
  const told: string[] = [];
  const drawn = renderHook(({ at }) => useTypedWords(at, (text) => told.push(text), 200), {
    initialProps: { at: words },
  });
  return {
    told,
    typed: () => drawn.result.current[0],
    type: (text: string) => act(() => drawn.result.current[1](text)),
    arrives: (at: string) => drawn.rerender({ at }),
  };
}

const passes = (ms: number) => act(() => vi.advanceTimersByTime(ms));

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

describe("words of a search that stand in the address", () => {
  it("go there once, when nothing was typed for a moment", () => {
    const { told, type } = field();
    type("f");
    passes(150);
    type("fe");
    passes(150);
    type("ferry ");
    expect(told).toEqual([]);
    passes(200);
    expect(told).toEqual(["ferry"]);
    passes(1000);
    expect(told).toEqual(["ferry"]);
  });

  it("come into the field when something else wrote them, and stay there", () => {
    const { told, typed, type, arrives } = field();
    arrives("lorry");
    expect(typed()).toBe("lorry");
    passes(1000);
    expect(told).toEqual([]);
    type("lorry 16 m");
    arrives("minibus"); // a view was chosen before what was typed went anywhere
    expect(typed()).toBe("minibus");
    passes(1000);
    expect(told).toEqual([]);
  });

  it("are not taken back by what was typed before and arrives late", () => {
    const { told, typed, type, arrives } = field();
    type("fer");
    passes(200);
    type("ferry");
    arrives("fer");
    expect(typed()).toBe("ferry");
    passes(200);
    expect(told).toEqual(["fer", "ferry"]);
    arrives("ferry");
    expect(typed()).toBe("ferry");
  });

  it("can be taken back before they went", () => {
    const { told, type } = field("dog");
    type("dogs");
    type("dog");
    passes(1000);
    expect(told).toEqual([]);
  });
});
