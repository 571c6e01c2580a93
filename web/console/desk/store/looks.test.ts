import { describe, expect, it } from "vitest";

import type { Live } from "../../../shared/live";
import type { GuestView, SiteMoved, TeamMessage } from "../../../shared/types";
import { Looks } from "./looks";

const guest = (id: string, change: Partial<GuestView> = {}): GuestView => ({
  id,
  number: 1000,
  place: {},
  pageUrl: "/",
  pageTitle: "Home",
  pageSince: "2026-09-17T13:30:00Z",
  pages: 1,
  tabs: 1,
  startedAt: "2026-09-17T13:30:00Z",
  source: { kind: "direct" },
  device: { kind: "desktop", browser: "", system: "" },
  language: "en",
  visits: 1,
  chats: 0,
  score: 0,
  topics: [],
  reasons: [],
  state: "browsing",
  stateSince: "2026-09-17T13:30:00Z",
  ...change,
});

const moved = (number: number, change: Partial<SiteMoved> = {}): SiteMoved => ({
  type: "site",
  look: "a",
  number,
  total: 2,
  found: 2,
  waiting: 0,
  inChat: 0,
  lines: 2,
  fresh: 0,
  from: 0,
  ordered: false,
  marked: false,
  ...change,
});

function begin() {
  const calls: { method: string; data: unknown }[] = [];
  const live = {
    call: (method: string, data: unknown) => {
      calls.push({ method, data });
      return Promise.resolve(undefined);
    },
  } as unknown as Live<TeamMessage>;
  const looks = new Looks(() => live);
  looks.look({ id: "a", from: 0, to: 10 });
  const seen = looks.seen("a");
  return { looks, calls, seen };
}

describe("Who is on the site", () => {
  it("is what the server sent, with what changed since", () => {
    const { looks, seen } = begin();
    expect(seen.getState().loaded).toBe(false);
    looks.receive(moved(1, { ordered: true, order: ["1", "2"], guests: [guest("1"), guest("2")] }));
    looks.receive(moved(2, { guests: [guest("1", { pageTitle: "Fares" })] }));
    const { guests, order, loaded } = seen.getState();
    expect(loaded).toBe(true);
    expect(order).toEqual(["1", "2"]);
    expect(guests.get("1")?.pageTitle).toBe("Fares");
    expect(guests.get("2")?.pageTitle).toBe("Home");
    expect(looks.onSite.getState().total).toBe(2);
  });

  it("forgets who is out of view", () => {
    const { looks, seen } = begin();
    looks.receive(moved(1, { ordered: true, order: ["1", "2"], guests: [guest("1"), guest("2")] }));
    looks.receive(moved(2, { ordered: true, from: 1, order: ["2", "3"], guests: [guest("3")] }));
    expect([...seen.getState().guests.keys()]).toEqual(["2", "3"]);
    expect(seen.getState().from).toBe(1);
  });

  it("goes on with the lines that come into view, and keeps the others as they are", () => {
    const { looks, seen } = begin();
    looks.receive(moved(1, { ordered: true, order: ["1", "2"], guests: [guest("1"), guest("2")] }));
    const second = seen.getState().guests.get("2");
    looks.look({ id: "a", from: 1, to: 3 });
    looks.receive(moved(2, { ordered: true, from: 1, order: ["2", "3"], guests: [guest("3")] }));
    expect(seen.getState().guests.get("2")).toBe(second);
  });

  it("is asked for anew once when something is missing, and shown as it was until then", () => {
    const { looks, calls, seen } = begin();
    looks.receive(moved(1, { ordered: true, order: ["1"], guests: [guest("1")] }));
    looks.receive(moved(3, { ordered: true, order: [] }));
    looks.receive(moved(4, { ordered: true, order: [] }));
    expect(seen.getState().order).toEqual(["1"]);
    expect(calls.filter((c) => c.method === "look")).toHaveLength(2);
    expect(calls.at(-1)?.data).toMatchObject({ anew: true });
    looks.receive(moved(1, { ordered: true, order: ["9"], guests: [guest("9")] }));
    expect(seen.getState().order).toEqual(["9"]);
    expect(seen.getState().guests.has("1")).toBe(false);
  });

  it("is asked for after each connect, and not after one has stopped looking", () => {
    const { looks, calls, seen } = begin();
    looks.connected();
    expect(calls.filter((c) => c.method === "look")).toHaveLength(2);
    looks.end("a");
    expect(calls.at(-1)?.method).toBe("unlook");
    looks.connected();
    expect(calls.filter((c) => c.method === "look")).toHaveLength(2);
    // What was on its way changes nothing.
    looks.receive(moved(1, { ordered: true, order: ["1"], guests: [guest("1")] }));
    expect(seen.getState().loaded).toBe(false);
    expect(looks.onSite.getState().total).toBeUndefined();
  });
});
