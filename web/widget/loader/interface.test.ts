import { afterEach, beforeEach, expect, test, vi } from "vitest";

import type { Host } from "./host";
import { Interface } from "./interface";

const answers: (() => Promise<Response>)[] = [];
const sent: Record<string, unknown>[] = [];

function problem(status: number, body: object) {
  return () => Promise.resolve(Response.json(body, { status }));
}
const taken = () => Promise.resolve(new Response(null, { status: 204 }));
const noNetwork = () => Promise.reject(new TypeError("no network"));

beforeEach(() => {
  vi.useFakeTimers();
  answers.splice(0);
  sent.splice(0);
  vi.stubGlobal("fetch", (_: string, init: RequestInit) => {
    sent.push(JSON.parse(init.body as string) as Record<string, unknown>);
    return (answers.shift() ?? taken)();
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function calls(...list: [string, unknown[]][]) {
  const told: unknown[] = [];
  const host = { path: "/widget/k/", page: () => ({ tab: "t", token: "v" }), calls: list };
  const page = new Interface(host as unknown as Host, () => undefined);
  list.unshift(["on", ["problem", (p: unknown) => told.push(p)]]);
  page.catchUp();
  return told;
}

test("what the server could not take is said again, in its order", async () => {
  answers.push(noNetwork, problem(409, { title: "Not here", retry: true }));
  const told = calls(["set", [{ tier: "gold" }]], ["event", ["quote"]]);
  await vi.advanceTimersByTimeAsync(60_000);
  const fields = { tab: "t", token: "v", fields: { tier: "gold" } };
  expect(sent).toEqual([fields, fields, fields, { tab: "t", token: "v", event: "quote" }]);
  expect(told).toEqual([]);
});

test("what is refused is told to the page at once, and what follows still goes out", async () => {
  const warned = vi.spyOn(console, "warn").mockReturnValue();
  answers.push(problem(401, { title: "The token has ended", detail: "Sign another.", retry: false }));
  const told = calls(["identify", ["a.b.c"]], ["event", ["quote"]]);
  await vi.advanceTimersByTimeAsync(0);
  expect(told).toEqual([expect.objectContaining({ title: "The token has ended" })]);
  expect(warned).toHaveBeenCalledWith("Stoop: The token has ended. Sign another.");
  expect(sent).toHaveLength(2);
});

test("after a minute without a server the page is told what got lost", async () => {
  const warned = vi.spyOn(console, "warn").mockReturnValue();
  answers.push(...Array.from({ length: 6 }, () => noNetwork));
  const told = calls(["event", ["quote"]]);
  await vi.advanceTimersByTimeAsync(90_000);
  expect(sent).toHaveLength(6);
  expect(told).toHaveLength(1);
  expect(warned.mock.calls.flat().join()).toContain("cannot be reached");
});
