import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { eventually } from "../../../shared/eventually";
import { keep, kept } from "../../../shared/storage";
import type { Suggestion } from "../../../shared/types";
import { chat, FakeServer, listed, open, place, said } from "../fake-desk";
import { draftKey } from "../drafts";
import type { DeskStore } from "./desk-store";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

/** A request whose end the test decides. */
class FakeUpload {
  static all: FakeUpload[] = [];
  upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  onabort?: () => void;
  status = 0;
  responseText = "";
  url = "";
  constructor() {
    FakeUpload.all.push(this);
  }
  open(_method: string, url: string) {
    this.url = url;
  }
  setRequestHeader() {
    // The cookie says who it is.
  }
  send() {
    // On its way until the test says more.
  }
  abort() {
    this.onabort?.();
  }
  ends(status: number, body: unknown) {
    this.status = status;
    this.responseText = JSON.stringify(body);
    this.onload?.();
  }
}

const response = (text: string): Suggestion => ({
  id: text,
  scope: "common",
  shortcut: text,
  language: "",
  match: "",
  text,
});
const held = chat("wren", { phase: "active", ownerId: "maren", ownerName: "Maren Holt", last: 3 });
const other = chat("oskar", { phase: "active", ownerId: "maren", ownerName: "Maren Holt", last: 3 });

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  FakeUpload.all = [];
  vi.stubGlobal("XMLHttpRequest", FakeUpload);
  server = new FakeServer();
  server.desk.chats = [held, other];
  for (const c of [held, other]) {
    server.answers.set(`/api/chats/${c.id}?after=0`, {
      status: 200,
      body: { chat: c, place: place(c.visitorId), events: [said(1, "Is there room?")] },
    });
  }
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const uploads = (store: DeskStore) => store.stores.uploads.getState().uploads.get("wren") ?? [];

describe("files on their way", () => {
  const plan = { key: "1", file: new File(["words"], "deck plan.txt") };

  it("tell how far they are, and go from the list when they are in the script", async () => {
    const { store } = await open(server);
    store.uploads.share("wren", [plan]);
    const sent = FakeUpload.all[0];
    expect(sent?.url).toContain("/api/chats/wren/files?name=deck+plan.txt&clientId=");
    sent?.upload.onprogress?.({ loaded: 2, total: 5 });
    expect(uploads(store).map((u) => u.share)).toEqual([0.4]);
    sent?.ends(200, { event: { ...said(4, ""), kind: "shared", side: "team", by: "maren" } });
    await eventually(() => expect(uploads(store)).toEqual([]));
  });

  it("are kept when the connection breaks, and sent again under the same id, so that none stands there twice", async () => {
    const { store } = await open(server);
    store.uploads.share("wren", [plan]);
    FakeUpload.all[0]?.onerror?.();
    await eventually(() => expect(uploads(store)[0]?.trouble).toContain("No connection"));
    store.uploads.again(uploads(store)[0]?.clientId ?? "");
    expect(FakeUpload.all[1]?.url).toBe(FakeUpload.all[0]?.url);
    expect(uploads(store)[0]?.trouble).toBe("");
  });

  it("say why the server did not take them", async () => {
    const { store } = await open(server);
    store.uploads.share("wren", [plan]);
    FakeUpload.all[0]?.ends(422, {
      code: "not-a-picture",
      title: "This is not the picture that it claims to be",
      detail: "Send another one.",
      status: 422,
      retry: false,
    });
    await eventually(() => expect(uploads(store)[0]?.trouble).toContain("not the picture"));
  });

  it("can be given up, alone among several", async () => {
    const { store } = await open(server);
    store.uploads.share("wren", [plan, { key: "2", file: new File(["x"], "b.txt") }]);
    store.uploads.cancel("wren", uploads(store)[0]?.clientId ?? "");
    expect(uploads(store).map((u) => u.name)).toEqual(["b.txt"]);
  });

  it("are refused before they are sent when they are too big or empty", async () => {
    const { store } = await open(server);
    expect(store.uploads.refusalOf(new File(["x".repeat(1001)], "film.mp4"))).toContain("film.mp4 has 1 kB");
    expect(store.uploads.refusalOf(new File([], "nothing.txt"))).toBe("nothing.txt is empty.");
    expect(store.uploads.refusalOf(new File(["x"], "fine.txt"))).toBe("");
  });
});

describe("what is drawn, and when", () => {
  it("once for all that comes within a frame", async () => {
    const { store, live } = await open(server);
    const frames: FrameRequestCallback[] = [];
    vi.stubGlobal("requestAnimationFrame", (f: FrameRequestCallback) => frames.push(f));
    await eventually(() => expect(store.stores.scripts.getState().logs.size).toBe(2));
    await new Promise((done) => setTimeout(done, 120)); // what was told before has been told
    let told = 0;
    store.stores.scripts.subscribe(() => told++);
    frames.length = 0;
    for (let n = 2; n < 12; n++) live.arrives({ type: "draft", chatId: "wren", text: `word ${n}` });
    expect(told).toBe(0);
    expect(frames.length).toBe(1);
    frames[0]?.(0);
    expect(told).toBe(1);
  });

  it("even when the page gets no frames, as behind other windows", async () => {
    const { store, live } = await open(server);
    vi.stubGlobal("requestAnimationFrame", () => 0);
    let told = 0;
    store.stores.scripts.subscribe(() => told++);
    live.arrives({ type: "draft", chatId: "wren", text: "Is" });
    await eventually(() => expect(told).toBeGreaterThan(0));
    const before = told;
    live.arrives({ type: "draft", chatId: "wren", text: "Is there" });
    await eventually(() => expect(told).toBeGreaterThan(before));
  });

  it("at once when another lane is turned to: the next key is meant for that one", async () => {
    const { store } = await open(server);
    vi.stubGlobal("requestAnimationFrame", () => 0);
    store.screen.focus("wren");
    let seen = "";
    store.stores.windows.subscribe((now) => (seen = now.focused));
    store.screen.focus("oskar");
    expect(seen).toBe("oskar");
  });
});

describe("my own ways", () => {
  it("are stored a moment later, together, and again when that failed", async () => {
    const { store, live } = await open(server);
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    store.preferring.prefer({ lineWidth: 300 });
    store.preferring.prefer({ lineWidth: 310, aboutOpen: false });
    expect(store.stores.preferences.getState().preferences).toMatchObject({
      lineWidth: 310,
      aboutOpen: false,
    });
    const stored = () => server.asked.filter((p) => p === "/api/me/preferences").length;
    expect(stored()).toBe(0);
    await vi.advanceTimersByTimeAsync(500); // the server answers 404: it was not stored
    expect(stored()).toBe(1);
    vi.useRealTimers();
    live.down();
    live.up();
    await eventually(() => expect(stored()).toBe(2));
    expect(store.stores.preferences.getState().preferences.lineWidth).toBe(310);
  });
});

describe("words that were sent", () => {
  it("stand as unsent until what came in between is there", async () => {
    const { store, live } = await open(server);
    store.screen.focus("wren");
    let arrive: () => void = () => undefined;
    const last = store.stores.scripts.getState().logs.get("wren")?.last ?? 0;
    const between = said(last + 1, "in between");
    const mine = said(last + 2, "from the dark");
    server.hold.set(`GET /api/chats/wren?after=${last}`, new Promise((go) => (arrive = go)));
    server.answers.set(`/api/chats/wren?after=${last}`, {
      status: 200,
      body: { chat: { ...held, last: last + 2 }, place: place(held.visitorId), events: [between, mine] },
    });
    live.answer = ({ method }) => (method === "say" ? { event: mine } : undefined);
    store.words.write("wren", "from the dark");
    await eventually(() => expect(server.asked).toContain(`/api/chats/wren?after=${last}`));
    expect(store.stores.scripts.getState().unsent.get("wren")).toHaveLength(1);
    arrive();
    await eventually(() => expect(store.stores.scripts.getState().unsent.get("wren") ?? []).toEqual([]));
    expect(store.stores.scripts.getState().logs.get("wren")?.last).toBe(last + 2);
  });

  it("are not away while the script itself is on its way, after a start", async () => {
    let arrive: () => void = () => undefined;
    const script = "/api/chats/wren?after=0";
    server.hold.set(`GET ${script}`, new Promise((go) => (arrive = go)));
    const { store, live } = await open(server);
    const { scripts } = store.stores;
    live.answer = ({ method }) => (method === "say" ? { event: said(2, "from the dark") } : undefined);
    store.screen.focus("wren");
    store.words.write("wren", "from the dark");
    await eventually(() => expect(live.asked("say")).toHaveLength(1));
    await Promise.resolve();
    expect(scripts.getState().logs.has("wren")).toBe(false);
    expect(scripts.getState().unsent.get("wren")).toHaveLength(1);
    arrive();
    await eventually(() => expect(scripts.getState().unsent.get("wren") ?? []).toEqual([]));
    expect(
      scripts
        .getState()
        .logs.get("wren")
        ?.events.map((e) => e.text),
    ).toContain("from the dark");
  });
});

describe("words that the server refused", () => {
  it("go back in front of what was typed since", async () => {
    const { store, live } = await open(server);
    const { ProblemError } = await import("../../../shared/problem");
    live.answer = ({ method }) => {
      if (method === "say")
        throw new ProblemError({
          code: "too-long",
          title: "Too long",
          detail: "",
          status: 422,
          retry: false,
          type: "",
        });
      return undefined;
    };
    store.screen.focus("wren");
    store.words.write("wren", "all of it");
    await eventually(() =>
      expect(store.stores.scripts.getState().unsent.get("wren")?.[0]?.problem?.code).toBe("too-long"),
    );
    keep(draftKey("wren"), "and more");
    store.words.writeAnew("wren", store.stores.scripts.getState().unsent.get("wren")?.[0]?.clientId ?? "");
    expect(kept(draftKey("wren"))).toMatch(/^all of it\s+and more$/);
    expect(store.stores.scripts.getState().unsent.get("wren") ?? []).toEqual([]);
  });

  it("and words put into a composer stand behind what is there", async () => {
    const { store } = await open(server);
    store.words.putInComposer("wren", response("first"));
    store.words.putInComposer("wren", response("second"));
    expect(kept(draftKey("wren"))).toBe("first second");
    expect(store.stores.scripts.getState().refills.get("wren")).toBe(2);
    expect(store.stores.scripts.getState().refills.get("oskar")).toBeUndefined();
  });
});

describe("lanes", () => {
  it("that are taken away leave the keyboard to another one, and the chat in the line", async () => {
    const { store } = await open(server);
    store.screen.focus("oskar");
    store.screen.focus("wren");
    store.acts.putAway("wren");
    expect(store.stores.windows.getState().focused).toBe("oskar");
    expect(
      listed(store)
        .mine()
        .map((c) => c.id),
    ).toContain("wren");
    expect(store.screen.lanes.showable()).not.toContain("wren");
    store.screen.focus("wren");
    expect(store.screen.lanes.showable()).toContain("wren");
  });

  it("one alone, until it is closed", async () => {
    const { store, live } = await open(server);
    store.screen.showAlone("wren");
    expect(store.stores.windows.getState().alone).toBe("wren");
    live.arrives({
      type: "chat",
      chat: { ...held, phase: "ended", ending: "answered", last: 4 },
      events: [],
    });
    store.acts.close("wren");
    expect(store.stores.windows.getState().alone).toBe("");
    expect(
      listed(store)
        .mine()
        .map((c) => c.id),
    ).toEqual(["oskar"]);
  });
});
