import { beforeEach, describe, expect, it, vi } from "vitest";

import { eventually } from "../../../shared/eventually";
import type { ChatView, EventView } from "../../../shared/types";
import { Notices } from "../../notices/notices";
import { chat, FakeServer, fine, listed, open, place, said } from "../fake-desk";
import type { DeskStore } from "./desk-store";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const waiting = (store: DeskStore) =>
  listed(store)
    .waiting()
    .map((c) => c.id);

describe("the Desk", () => {
  let server: FakeServer;
  beforeEach(() => {
    localStorage.clear();
    server = new FakeServer();
  });

  it("shows who waits in the order in which they came", async () => {
    server.desk.chats = [
      chat("late", { startedAt: "2026-09-17T13:35:00Z", arrived: "2026-09-17T13:35:00Z" }),
      chat("early"),
    ];
    const { store, live } = await open(server);
    expect(waiting(store)).toEqual(["early", "late"]);
    live.arrives({
      type: "chat",
      chat: chat("later", { startedAt: "2026-09-17T13:36:00Z", arrived: "2026-09-17T13:36:00Z" }),
      events: [],
    });
    expect(waiting(store)).toEqual(["early", "late", "later"]);
  });

  it("does not take where a visitor was, as it was read, for later than what it heard meanwhile", async () => {
    server.desk.places = [place("wren", { pageTitle: "Fares", seenAt: "2026-09-17T13:33:00Z" })];
    const { store, live } = await open(server);
    const title = () => store.stores.places.getState().places.get("wren")?.pageTitle;
    expect(title()).toBe("Fares");
    live.arrives({
      type: "place",
      place: place("wren", { pageTitle: "Freight", seenAt: "2026-09-17T13:33:05Z" }),
    });
    const before = server.asked.length;
    live.up();
    await eventually(() => expect(server.asked.slice(before)).toContain("/api/desk"));
    await eventually(() => expect(store.stores.team.getState().loaded).toBe(true));
    expect(title()).toBe("Freight");
    server.desk.places = [place("wren", { pageTitle: "Timetable", seenAt: "2026-09-17T13:33:09Z" })];
    live.up();
    await eventually(() => expect(title()).toBe("Timetable"));
  });

  it("lets go of what a colleague took, and of nothing of its own", async () => {
    server.desk.chats = [chat("theirs"), chat("mine", { phase: "active", ownerId: "maren" })];
    server.answers.set("/api/chats/mine?after=0", {
      status: 200,
      body: {
        chat: chat("mine", { phase: "active", ownerId: "maren" }),
        place: place("visitor-mine"),
        events: [said(1, ""), said(2, "Hello")],
      },
    });
    const { store, live } = await open(server);
    live.arrives({
      type: "gone",
      chatId: "theirs",
      phase: "active",
      ownerId: "idris",
      ownerName: "Idris Vane",
    });
    live.arrives({
      type: "gone",
      chatId: "mine",
      phase: "active",
      ownerId: "maren",
      ownerName: "Maren Holt",
    });
    expect(waiting(store)).toEqual([]);
    expect(
      listed(store)
        .mine()
        .map((c) => c.id),
    ).toEqual(["mine"]);
  });

  it("keeps what arrived while the Desk was asked for, and does not bring back what went", async () => {
    server.desk.chats = [chat("there"), chat("taken", { last: 2 })];
    const { store, live } = await open(server);
    let answer: () => void = () => undefined;
    server.hold.set("GET /api/desk", new Promise((done) => (answer = done)));
    live.up(); // a reconnect: the Desk is asked for anew
    await eventually(() => expect(server.asked.filter((p) => p === "/api/desk")).toHaveLength(2));
    live.arrives({ type: "chat", chat: chat("new", { arrived: "2026-09-17T13:40:00Z" }), events: [] });
    live.arrives({ type: "gone", chatId: "taken", phase: "active", ownerId: "idris", last: 3 });
    live.arrives({ type: "chat", chat: chat("there", { last: 5, lastWords: "newer" }), events: [] });
    answer();
    await eventually(() => expect(waiting(store)).toEqual(["there", "new"]));
    expect(store.stores.chats.getState().chats.get("there")?.lastWords).toBe("newer");
  });

  it("keeps a colleague's chat that a lead sees, though it went from the line in the meantime", async () => {
    const lead = { ...server.desk.me, role: "lead" as const };
    const taken = chat("theirs", { phase: "active", ownerId: "idris", last: 4 });
    server.desk = { ...server.desk, me: lead, chats: [taken] };
    const { store, live } = await open(server, lead);
    let answer: () => void = () => undefined;
    server.hold.set("GET /api/desk", new Promise((done) => (answer = done)));
    live.arrives({ type: "refresh" });
    live.arrives({ type: "gone", chatId: "theirs", phase: "active", ownerId: "idris", last: 4 });
    answer();
    await eventually(() => expect(server.asked.filter((p) => p === "/api/desk")).toHaveLength(2));
    await eventually(() =>
      expect(
        listed(store)
          .ofColleagues()
          .map((c) => c.id),
      ).toEqual(["theirs"]),
    );
    await new Promise((done) => setTimeout(done));
    expect(
      listed(store)
        .ofColleagues()
        .map((c) => c.id),
    ).toEqual(["theirs"]);
  });

  it("asks anew after a reconnect, whatever becomes of what was asked before", async () => {
    const { store, live } = await open(server);
    server.hold.set("GET /api/desk", new Promise(() => undefined)); // over a connection that is dead
    live.arrives({ type: "refresh" });
    await eventually(() => expect(server.asked.filter((p) => p === "/api/desk")).toHaveLength(2));
    server.hold.delete("GET /api/desk");
    server.desk.chats = [chat("wren")];
    live.down();
    live.up();
    await eventually(() => expect(waiting(store)).toEqual(["wren"]));
  });

  it("asks for the Desk once at a time, and once more for what was wanted meanwhile", async () => {
    const { live } = await open(server);
    let answer: () => void = () => undefined;
    server.hold.set("GET /api/desk", new Promise((done) => (answer = done)));
    live.arrives({ type: "refresh" });
    live.arrives({ type: "refresh" });
    live.arrives({ type: "refresh" });
    server.hold.delete("GET /api/desk");
    answer();
    await eventually(() => expect(server.asked.filter((p) => p === "/api/desk")).toHaveLength(3));
  });

  it("lets a late word that a chat went change nothing of a chat that came back since", async () => {
    server.desk.chats = [chat("wren", { last: 9 })];
    const { store, live } = await open(server);
    live.arrives({ type: "gone", chatId: "wren", phase: "active", ownerId: "idris", last: 4 });
    expect(waiting(store)).toEqual(["wren"]);
  });

  it("rings again for who still waits, at growing pauses, unless that is not wanted", async () => {
    vi.useFakeTimers({ toFake: ["Date", "setInterval", "clearInterval"] });
    try {
      const rings = vi.spyOn(Notices.prototype as unknown as { sound: () => void }, "sound");
      const { store, live } = await open(server);
      const stop = store.start();
      await eventually(() => expect(store.stores.team.getState().loaded).toBe(true));
      (store as unknown as { notices: { speaks: boolean } }).notices.speaks = true;
      live.arrives({ type: "chat", chat: chat("wren"), events: [] });
      expect(rings).toHaveBeenCalledTimes(1);
      vi.advanceTimersByTime(16_000);
      expect(rings).toHaveBeenCalledTimes(2);
      vi.advanceTimersByTime(15_000);
      expect(rings).toHaveBeenCalledTimes(2);
      vi.advanceTimersByTime(16_000);
      expect(rings).toHaveBeenCalledTimes(3);
      store.preferring.prefer({ ringAgain: false });
      vi.advanceTimersByTime(600_000);
      expect(rings).toHaveBeenCalledTimes(3);
      stop();
    } finally {
      vi.useRealTimers();
      vi.restoreAllMocks();
    }
  });

  it("tells who was faster", async () => {
    server.desk.chats = [chat("wren")];
    const problem = {
      type: "about:blank",
      status: 409,
      code: "chat-taken",
      title: "a colleague was faster",
      detail: "",
      retry: false,
      ownerId: "idris",
    };
    server.answers.set("/api/chats/wren/take?anyway=false", { status: 409, body: problem });
    const { store, words } = await open(server);
    await store.acts.take("wren");
    expect(words).toEqual(["Idris Vane took this chat a moment before you."]);
    expect(waiting(store)).toEqual([]);
    expect(store.stores.chats.getState().taking.size).toBe(0);
  });

  it("asks for what is missing when events come with a gap", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren" });
    server.desk.chats = [mine];
    server.answers.set("/api/chats/mine?after=0", {
      status: 200,
      body: { chat: mine, place: place("visitor-mine"), events: [said(1, "one"), said(2, "two")] },
    });
    server.answers.set("/api/chats/mine?after=2", {
      status: 200,
      body: {
        chat: { ...mine, last: 4 },
        place: place("visitor-mine"),
        events: [said(3, "three"), said(4, "four")],
      },
    });
    const { store, live } = await open(server);
    live.arrives({ type: "chat", chat: { ...mine, last: 4 }, events: [said(4, "four")] });
    await eventually(() =>
      expect(
        store.stores.scripts
          .getState()
          .logs.get("mine")
          ?.events.map((e) => e.text),
      ).toEqual(["one", "two", "three", "four"]),
    );
  });

  it("asks again for what is missing when that fails and the live connection stands", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren" });
    server.desk.chats = [mine];
    server.answers.set(
      "/api/chats/mine?after=0",
      fine({ chat: mine, place: place("visitor-mine"), events: [said(1, "one")] }),
    );
    let asked = 0;
    server.answers.set("/api/chats/mine?after=1", () => {
      asked++;
      return asked === 1
        ? { status: 503, body: { code: "unavailable", title: "Away", detail: "", retry: true } }
        : fine({
            chat: { ...mine, last: 3 },
            place: place("visitor-mine"),
            events: [said(2, "two"), said(3, "three")],
          });
    });
    const { store, live } = await open(server);
    const texts = () =>
      store.stores.scripts
        .getState()
        .logs.get("mine")
        ?.events.map((e) => e.text);
    await eventually(() => expect(texts()).toEqual(["one"]));
    live.arrives({ type: "chat", chat: { ...mine, last: 3 }, events: [said(3, "three")] });
    await eventually(() => expect(texts()).toEqual(["one", "two", "three"]));
    expect(asked).toBe(2);
  });

  it("misses no words that arrive while the script is on its way", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren", last: 2 });
    server.desk.chats = [mine];
    let answer: () => void = () => undefined;
    server.hold.set("GET /api/chats/mine?after=0", new Promise((done) => (answer = done)));
    server.answers.set("/api/chats/mine?after=0", {
      status: 200,
      body: { chat: mine, place: place("visitor-mine"), events: [said(1, "one"), said(2, "two")] },
    });
    server.answers.set("/api/chats/mine?after=2", {
      status: 200,
      body: { chat: { ...mine, last: 3 }, place: place("visitor-mine"), events: [said(3, "three")] },
    });
    const { store, live } = await open(server);
    live.arrives({ type: "chat", chat: { ...mine, last: 3 }, events: [said(3, "three")] });
    answer();
    await eventually(() =>
      expect(
        store.stores.scripts
          .getState()
          .logs.get("mine")
          ?.events.map((e) => e.text),
      ).toEqual(["one", "two", "three"]),
    );
  });

  it("notes how far words have come, and takes nothing of it back", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren", unseen: 2 });
    server.desk.chats = [mine];
    const { store, live } = await open(server);
    const marks = { type: "marks", chatId: "mine" } as const;
    live.arrives({
      ...marks,
      byVisitor: { delivered: 4, seen: 3 },
      byTeam: { delivered: 5, seen: 5 },
      unseen: 0,
    });
    live.arrives({
      ...marks,
      byVisitor: { delivered: 3, seen: 3 },
      byTeam: { delivered: 2, seen: 2 },
      unseen: 1,
    });
    live.arrives({ type: "chat", chat: { ...mine, last: mine.last + 1 }, events: [] });
    expect(store.stores.chats.getState().chats.get("mine")).toMatchObject({
      byVisitor: { delivered: 4, seen: 3 },
      byTeam: { delivered: 5, seen: 5 },
    });
  });

  it("tells again how far it has read when a server that died has forgotten it", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren" });
    server.desk.chats = [mine];
    const { live } = await open(server);
    const known = { delivered: 5, seen: 5 };
    live.arrives({ type: "marks", chatId: "mine", byVisitor: known, byTeam: known, unseen: 0 });
    live.down();
    live.up();
    await eventually(() => expect(live.asked("seen")).toEqual([{ chatId: "mine", upTo: 5 }]));
  });

  it("keeps a lane whose chat ended until it is closed", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren" });
    server.desk.chats = [mine];
    server.answers.set("/api/chats/mine?after=0", {
      status: 200,
      body: { chat: mine, place: place("visitor-mine"), events: [said(1, "one"), said(2, "two")] },
    });
    const { store, live } = await open(server);
    live.arrives({
      type: "chat",
      chat: { ...mine, last: 3, phase: "ended" },
      events: [{ ...said(3, ""), kind: "ended" }],
    });
    expect(
      listed(store)
        .mine()
        .map((c) => c.phase),
    ).toEqual(["ended"]);
    store.acts.close("mine");
    expect(listed(store).mine()).toEqual([]);
    expect(store.screen.lanes.list()).toEqual([]);
  });

  it("holds the page that was heard of last, when two messages overtake each other", async () => {
    const { store, live } = await open(server);
    live.arrives({ type: "place", place: place("v", { pageTitle: "Book", seenAt: "2026-09-17T13:31:00Z" }) });
    live.arrives({
      type: "place",
      place: place("v", { pageTitle: "Fares", seenAt: "2026-09-17T13:30:00Z", here: false }),
    });
    expect(store.stores.places.getState().places.get("v")).toMatchObject({ pageTitle: "Book", here: false });
  });

  it("shows drafts until the words are sent", async () => {
    const mine = chat("mine", { phase: "active", ownerId: "maren" });
    server.desk.chats = [mine];
    const { store, live } = await open(server);
    live.arrives({ type: "draft", chatId: "mine", text: "half a" });
    expect(store.stores.scripts.getState().drafts.get("mine")?.text).toBe("half a");
    live.arrives({ type: "chat", chat: { ...mine, last: 3 }, events: [said(3, "half a thought")] });
    expect(store.stores.scripts.getState().drafts.has("mine")).toBe(false);
  });

  it("leads to the login when the session has ended, and not when the server is away", async () => {
    const { live, out } = await open(server);
    server.answers.set("/api/me", { status: 503, body: { code: "unavailable", retry: true } });
    live.down();
    await eventually(() => expect(server.asked).toContain("/api/me"));
    expect(out()).toBe(0);
    server.answers.set("/api/me", { status: 401, body: { code: "login-first", status: 401, retry: false } });
    live.down();
    await eventually(() => expect(out()).toBe(1));
  });

  it("puts what is offered to me first, and nobody else's offers", async () => {
    const until = "2026-09-17T13:40:00Z";
    server.desk.chats = [
      chat("offered", { offeredTo: "maren", offeredUntil: until }),
      chat("asked", { offeredTo: "idris", offeredToName: "Idris Vane", offeredUntil: until }),
      chat("handed", {
        phase: "active",
        ownerId: "idris",
        handingTo: "maren",
        handingUntil: "2026-09-17T13:34:00Z",
      }),
    ];
    const { store } = await open(server);
    expect(
      listed(store)
        .offers()
        .map((c) => c.id),
    ).toEqual(["handed", "offered"]);
    expect(waiting(store)).toEqual(["asked"]);
  });

  it("shows the queue in the order that the server gives, of my departments only", async () => {
    server.desk.chats = [
      chat("usual"),
      chat("back", { order: "2026-09-17T13:00:00Z", since: "2026-09-17T13:33:00Z", handOns: 1 }),
      // Urgent, but others have waited longer than its head start.
      chat("gold", { priority: 3, order: "2026-09-17T13:05:00.5Z" }),
      chat("freight", { departmentId: "freight" }),
      chat("overflow", {
        departmentId: "freight",
        lineOf: ["freight", "help"],
        order: "2026-09-17T13:36:00Z",
      }),
      chat("note", { message: true, email: "wren@example.com" }),
      chat("later", { message: true, departmentId: "closed" }),
    ];
    const { store } = await open(server);
    expect(waiting(store)).toEqual(["back", "gold", "usual", "overflow"]);
    expect(
      listed(store)
        .messages()
        .map((c) => c.id),
    ).toEqual(["note"]);
  });

  it("asks before taking more than one should hold, and takes it when one means it", async () => {
    server.desk.chats = [chat("wren")];
    const problem = {
      type: "about:blank",
      status: 409,
      code: "over-capacity",
      title: "Full",
      detail: "",
      retry: false,
      load: 4,
      capacity: 4,
    };
    server.answers.set("/api/chats/wren/take?anyway=false", { status: 409, body: problem });
    server.answers.set("/api/chats/wren/take?anyway=true", {
      status: 200,
      body: chat("wren", { phase: "active", ownerId: "maren", last: 3 }),
    });
    const { store, words } = await open(server);
    await store.acts.take("wren");
    expect(store.stores.chats.getState().tooMany).toEqual({ chatId: "wren", load: 4, capacity: 4 });
    expect(words).toEqual([]);
    await store.acts.take("wren", true);
    expect(store.stores.chats.getState().tooMany).toBeUndefined();
    expect(
      listed(store)
        .mine()
        .map((c) => c.id),
    ).toEqual(["wren"]);
  });

  it("says what became of a chat that was handed on", async () => {
    const mineAgain = chat("wren", { phase: "active", ownerId: "maren", ownerName: "Maren Holt", last: 5 });
    const held: ChatView = {
      ...mineAgain,
      handingTo: "idris",
      handingToName: "Idris Vane",
      handingUntil: "2026-09-17T13:40:00Z",
    };
    server.desk.chats = [held];
    server.answers.set("/api/chats/wren?after=0", {
      status: 200,
      body: { chat: held, place: place("visitor-wren"), events: [] },
    });
    const { store, live, words } = await open(server);
    const back: EventView = { ...said(6, ""), kind: "returned", side: "team", by: "idris", why: "declined" };
    live.arrives({ type: "chat", chat: { ...mineAgain, last: 6 }, events: [back] });
    expect(words.at(-1)).toBe("Idris Vane could not take wren. The chat is yours again.");
    live.arrives({
      type: "gone",
      chatId: "wren",
      phase: "active",
      ownerId: "idris",
      ownerName: "Idris Vane",
    });
    expect(words.at(-1)).toBe("Idris Vane has the chat with wren now.");
    expect(listed(store).mine()).toEqual([]);
    expect(store.screen.lanes.list()).toEqual([]);
  });

  it("keeps a chat to which a colleague added me, until I leave", async () => {
    const theirs = chat("wren", { phase: "active", ownerId: "idris", last: 4, guests: ["maren"] });
    server.answers.set("/api/chats/wren?after=0", {
      status: 200,
      body: { chat: theirs, place: place("visitor-wren"), events: [] },
    });
    const { store, live } = await open(server);
    live.arrives({ type: "chat", chat: theirs, events: [] });
    expect(
      listed(store)
        .mine()
        .map((c) => c.id),
    ).toEqual(["wren"]);
    live.arrives({ type: "chat", chat: { ...theirs, last: 5, guests: [] }, events: [] });
    expect(listed(store).mine()).toEqual([]);
  });

  it("tells who was set away, until they have read it", async () => {
    const { store, live } = await open(server);
    live.arrives({ type: "set-away", passes: 3 });
    expect(store.stores.team.getState().setAwayAfter).toBe(3);
    store.acts.readAway();
    expect(store.stores.team.getState().setAwayAfter).toBe(0);
  });
});
