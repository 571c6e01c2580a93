import { beforeEach, describe, expect, it, vi } from "vitest";

import { eventually } from "../../shared/eventually";
import { FakeLive } from "../../shared/fake-live";
import { LostError, ProblemError } from "../../shared/problem";
import type { Admission, EventView, VisitorChatView } from "../../shared/types";
import { startKey } from "./drafts";
import { PanelStore } from "./store";
import { Uploads } from "./uploads";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

// Uploads that the test moves on: how far they are, and how they end.
const uploads: { onProgress: (share: number) => void; fail: (error: Error) => void }[] = [];
vi.mock("../../shared/upload", async (original) => ({
  ...(await original<typeof import("../../shared/upload")>()),
  upload: (_url: string, _file: Blob, onProgress: (share: number) => void) => {
    const done = new Promise<never>((_, reject) => uploads.push({ onProgress, fail: reject }));
    return { done, cancel: () => undefined };
  },
}));

const said = (number: number, side: "visitor" | "team", text: string): EventView => ({
  number,
  kind: "said",
  at: "2026-09-17T13:33:00Z",
  side,
  by: "",
  name: side === "team" ? "Maren Holt" : "Wren",
  text,
});

const chat = (last: number, change: Partial<VisitorChatView> = {}): VisitorChatView => ({
  id: "chat-1",
  phase: "active",
  last,
  startedAt: "2026-09-17T13:33:00Z",
  unseen: 0,
  message: false,
  email: "",
  wait: { place: 0, estimateSeconds: 0, known: false },
  ownerName: "Maren Holt",
  byVisitor: { delivered: 0, seen: 0 },
  byTeam: { delivered: 0, seen: 0 },
  ...change,
});

const widget = {
  draftsSeen: true,
  visitorFiles: true,
  files: { maxBytes: 1000, kinds: ["picture"] },
  language: "en",
  words: {},
  style: {},
  looks: { distance: 24, size: "usual" as const, icon: "", faces: true, links: [] },
  key: "ferry",
  title: "Ask",
  colour: "#9c3f27",
  onColour: "#ffffff",
  corner: "right" as const,
  messageLimit: 2000,
  reachBy: "email" as const,
  greeting: "",
  closedGreeting: "",
  hideClosed: false,
  form: [],
  now: { type: "state" as const, state: "open" as const, in: ["Maren"] },
};

/** Lets the server admit the visitor with a conversation. */
async function begin(
  admission: Partial<Admission> = {},
): Promise<{ store: PanelStore; live: FakeLive<never> }> {
  const body: Admission = {
    token: "token-1",
    widget,
    name: "",
    email: "",
    known: [],
    events: [],
    ...admission,
  } as Admission;
  vi.stubGlobal("fetch", async () => new Response(JSON.stringify(body), { status: 200 }));
  const before = FakeLive.last;
  const store = new PanelStore("ferry");
  store.sharesBy(Uploads);
  await store.begin();
  await eventually(() => expect(FakeLive.last === before).toBe(false));
  return { store, live: FakeLive.last };
}

const texts = (store: PanelStore) => store.state.log.events.map((e) => e.text);

describe("the panel's conversation", () => {
  beforeEach(() => localStorage.clear());

  it("comes back as the same visitor after it was refused: a ban is not evaded by a new name", async () => {
    const { live } = await begin();
    const asked: unknown[] = [];
    vi.stubGlobal("fetch", async (_: string, request: { body: string }) => {
      asked.push(JSON.parse(request.body));
      const problem = { code: "banned", title: "Not available", detail: "", status: 403, retry: false };
      return new Response(JSON.stringify(problem), { status: 403 });
    });
    live.options.onRefused();
    await eventually(() => expect(asked).toHaveLength(1));
    expect(asked[0]).toMatchObject({ token: "token-1" });
    expect(localStorage.getItem("stoop.ferry.token")).toBe("token-1");
  });

  it("keeps the token and shows it at the next visit", async () => {
    await begin();
    const asked: string[] = [];
    vi.stubGlobal("fetch", async (_: string, init: RequestInit) => {
      asked.push(String(init.body));
      return new Response(JSON.stringify({ token: "token-1", widget, name: "", email: "", events: [] }));
    });
    await new PanelStore("ferry").begin();
    expect(asked).toEqual(['{"token":"token-1","back":"","speaks":[]}']);
  });

  it("asks for what is missing when it sees a gap", async () => {
    const { store, live } = await begin({
      chat: chat(2),
      events: [said(1, "visitor", "one"), said(2, "team", "two")],
    });
    live.answer = ({ method }) =>
      method === "resume"
        ? { chat: chat(4), events: [said(3, "team", "three"), said(4, "team", "four")] }
        : undefined;
    live.arrives({ type: "chat", chat: chat(4), events: [said(4, "team", "four")] });
    expect(texts(store)).toEqual(["one", "two"]);
    await eventually(() => expect(live.asked("resume")[0]).toEqual({ chatId: "chat-1", after: 2 }));
    expect(texts(store)).toEqual(["one", "two", "three", "four"]);
  });

  it("asks again for what is missing when that fails and the connection stands", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    live.answer = () => undefined;
    live.up();
    live.answer = ({ method }) => {
      if (method === "resume" && live.asked("resume").length < 3) throw new LostError();
      return { chat: chat(3), events: [said(2, "team", "two"), said(3, "team", "three")] };
    };
    live.arrives({ type: "chat", chat: chat(3), events: [said(3, "team", "three")] });
    await eventually(() => expect(texts(store)).toEqual(["one", "two", "three"]));
    expect(live.asked("resume")).toHaveLength(3);
  });

  it("asks for what followed after each connect, and then sends what was kept", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    live.answer = () => {
      throw new LostError();
    };
    store.say("written without a network");
    await eventually(() =>
      expect(store.state.unsent.map((m) => m.text)).toEqual(["written without a network"]),
    );
    live.answer = ({ method, data }) => {
      if (method === "resume") return { chat: chat(2), events: [said(2, "team", "meanwhile")] };
      return { event: { ...said(3, "visitor", String(data.text)), clientId: data.clientId } };
    };
    live.up();
    await eventually(() => expect(texts(store)).toEqual(["one", "meanwhile", "written without a network"]));
    await eventually(() => expect(store.state.unsent).toEqual([]));
    const ids = live.asked("say").map((data) => data.clientId);
    expect(new Set(ids).size).toBe(1);
  });

  it("does not go back to what it was by a view that comes late", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    live.arrives({
      type: "chat",
      chat: chat(3, { phase: "ended" }),
      events: [said(2, "team", "a"), said(3, "team", "b")],
    });
    live.arrives({ type: "chat", chat: chat(2), events: [said(2, "team", "a")] });
    expect(store.state.chat?.phase).toBe("ended");
    expect(texts(store)).toEqual(["one", "a", "b"]);
  });

  it("tells that words were delivered, and seen only when the panel is open", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "team", "hello")] });
    live.up();
    live.arrives({ type: "chat", chat: chat(2), events: [said(2, "team", "are you there?")] });
    expect(live.asked("seen")).toEqual([]);
    expect(live.asked("delivered").at(-1)).toEqual({ chatId: "chat-1", upTo: 2 });
    expect(store.unread()).toBe(2);
    store.onShown(true);
    expect(live.asked("seen")).toEqual([{ chatId: "chat-1", upTo: 2 }]);
    expect(store.unread()).toBe(0);
    store.onShown(true);
    expect(live.asked("seen")).toHaveLength(1);
  });

  it("tells again what a server that died has forgotten of it", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "team", "hello")] });
    live.up();
    live.arrives({ type: "chat", chat: chat(2), events: [said(2, "team", "are you there?")] });
    store.onShown(true);
    const known = { delivered: 2, seen: 2 };
    live.arrives({ type: "marks", chatId: "chat-1", byVisitor: known, byTeam: known, unseen: 0 });
    expect(live.asked("seen")).toHaveLength(1);
    live.answer = ({ method }) => (method === "resume" ? { chat: chat(2), events: [] } : undefined);
    live.down();
    live.up();
    await eventually(() => expect(live.asked("seen")).toEqual(Array(2).fill({ chatId: "chat-1", upTo: 2 })));
  });

  it("takes a changed widget, and leaves a chat on screen when the widget is gone", async () => {
    vi.spyOn(Math, "random").mockReturnValue(0); // asked for at once
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    vi.stubGlobal("fetch", async () =>
      Response.json({ token: "token-1", widget: { ...widget, title: "Other" } }),
    );
    live.arrives({ type: "widget", version: 2 });
    await eventually(() => expect(store.state.widget?.title).toBe("Other"));
    expect(texts(store)).toEqual(["one"]);
    let asked = 0;
    vi.stubGlobal("fetch", async () => {
      asked++;
      return Response.json({ code: "widget-off", title: "Gone", detail: "", status: 410 }, { status: 410 });
    });
    live.arrives({ type: "widget", version: 3 });
    await eventually(() => expect(asked).toBe(1));
    await eventually(() => expect(store.state.broken).toBe(""));
    expect(texts(store)).toEqual(["one"]);
    vi.restoreAllMocks();
  });

  it("shows who types, and no longer once they have spoken", async () => {
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    live.arrives({ type: "typing", chatId: "chat-1", name: "Maren Holt", typing: true });
    expect(store.state.typing).toBe("Maren Holt");
    live.arrives({ type: "chat", chat: chat(2), events: [said(2, "team", "two")] });
    expect(store.state.typing).toBe("");
    live.arrives({ type: "typing", chatId: "another", name: "Maren Holt", typing: true });
    expect(store.state.typing).toBe("");
  });

  it("begins a chat with the page it is on, and follows who is in", async () => {
    const { store, live } = await begin();
    store.onPage({ url: "http://kelpwick.example/fares", title: "Fares" });
    live.answer = ({ method }) =>
      method === "open"
        ? {
            chat: chat(2, { phase: "waiting" }),
            events: [said(1, "visitor", ""), said(2, "visitor", "Room?")],
          }
        : undefined;
    store.open({ text: "Room?", name: "Wren", email: "" }, false);
    await eventually(() =>
      expect(live.asked("open")[0]).toMatchObject({ text: "Room?", name: "Wren", pageTitle: "Fares" }),
    );
    expect(store.state.chat?.phase).toBe("waiting");
    await eventually(() => expect(store.state.unsent).toEqual([]));
    live.arrives({ type: "state", state: "closed", in: [] });
    expect(store.state.widget?.now.state).toBe("closed");
    live.arrives({ type: "wait", chatId: "chat-1", wait: { place: 3, estimateSeconds: 90, known: true } });
    expect(store.state.chat?.wait.place).toBe(3);
  });

  it("gives a first question back as a message when the team closed meanwhile", async () => {
    const { store, live } = await begin();
    const refusal = {
      type: "about:blank",
      status: 409,
      code: "closed",
      title: "Nobody",
      detail: "",
      retry: false,
    };
    live.answer = () => {
      throw new ProblemError({ ...refusal, opensAt: "2026-09-21T06:00:00Z" });
    };
    store.open({ text: "Room for a lorry?", name: "Wren", email: "" }, false);
    await eventually(() => expect(store.state.starting).toBe(true));
    expect(store.state.mustLeave).toEqual({ opensAt: "2026-09-21T06:00:00Z" });
    expect(JSON.parse(localStorage.getItem(startKey("ferry")) ?? "{}").text).toBe("Room for a lorry?");
    expect(store.state.unsent).toEqual([]);
  });

  it("gives refused words back where the visitor can see and send them", async () => {
    const refusal = {
      type: "about:blank",
      status: 409,
      code: "chat-ended",
      title: "Ended",
      detail: "",
      retry: false,
    };
    const { store, live } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    live.answer = () => {
      throw new ProblemError(refusal as ConstructorParameters<typeof ProblemError>[0]);
    };
    store.say("too late");
    await eventually(() => expect(store.state.unsent[0]?.problem?.code).toBe("chat-ended"));
    live.arrives({
      type: "chat",
      chat: chat(2, { phase: "ended" }),
      events: [{ ...said(2, "team", ""), kind: "ended" }],
    });
    store.writeAnew(store.state.unsent[0]?.clientId ?? "");
    expect(store.state.starting).toBe(true);
    expect(JSON.parse(localStorage.getItem(startKey("ferry")) ?? "{}").text).toBe("too late");
    expect(store.state.unsent).toEqual([]);
  });

  it("does not take a file back that was given up, whatever is still told of it", async () => {
    const { store } = await begin({ chat: chat(1), events: [said(1, "visitor", "one")] });
    store.uploads?.share([new File(["a picture"], "cat.png"), new File(["a text"], "notes.txt")]);
    const [cat, notes] = uploads.splice(0);
    cat?.onProgress(0.5);
    expect(store.state.uploads.map((u) => u.share)).toEqual([0.5, 0]);
    store.uploads?.cancel(store.state.uploads[0]?.clientId ?? "");
    cat?.onProgress(1);
    cat?.fail(new LostError());
    notes?.fail(new LostError());
    await eventually(() => expect(store.state.uploads[0]?.trouble).toBeTruthy());
    expect(store.state.uploads.map((u) => u.name)).toEqual(["notes.txt"]);
  });

  it("says why when the server will not have it", async () => {
    const problem = {
      type: "about:blank",
      status: 404,
      code: "unknown-widget",
      title: "There is no widget",
      detail: "Copy it again.",
      retry: false,
    };
    vi.stubGlobal("fetch", async () => new Response(JSON.stringify(problem), { status: 404 }));
    const store = new PanelStore("none");
    await store.begin();
    expect(store.state.broken).toContain("There is no widget");
  });
});
