import { beforeEach, expect, it, vi } from "vitest";

import { eventually } from "../../shared/eventually";
import { FakeLive } from "../../shared/fake-live";
import type { Admission, VisitorChatView, WidgetView } from "../../shared/types";
import { PanelStore } from "./store";

const lives: FakeLive<never>[] = [];
vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  class Counted extends FakeLive<never> {
    constructor(options: FakeLive<never>["options"]) {
      super(options);
      lives.push(this);
    }
  }
  return { Live: Counted, liveURL: (path: string) => path };
});
vi.mock("./host", () => ({ framed: true }));

const now = (state: "open" | "closed") => ({ type: "state" as const, state, in: [] });
const widget = {
  key: "ferry",
  language: "en",
  words: {},
  title: "Ask",
  form: [],
  now: now("open"),
} as unknown as WidgetView;

let admission: Partial<Admission>;
let admitted: number;
beforeEach(() => {
  localStorage.clear();
  lives.length = 0;
  admitted = 0;
  admission = { token: "token-1", widget, name: "", email: "", known: [], events: [] };
  vi.stubGlobal("fetch", async () => {
    admitted++;
    return new Response(JSON.stringify(admission), { status: 200 });
  });
});

async function begun(): Promise<PanelStore> {
  const store = new PanelStore("ferry");
  await store.begin();
  return store;
}

it("does not connect before there is a chat, and hears of the team from the page around", async () => {
  const store = await begun();
  store.onTeam(now("closed"));
  expect(store.state.widget?.now.state).toBe("closed");
  admission.widget = { ...widget, title: "Ask the crew" };
  store.onWidget();
  await eventually(() => expect(store.state.widget?.title).toBe("Ask the crew"));
  expect(admitted).toBe(2);
  expect(lives).toHaveLength(0);
});

it("connects once for a question, and sends it when the connection is up", async () => {
  const store = await begun();
  store.connect(); // the first letter is typed
  store.open({ name: "Wren", email: "", text: "Is there room?" }, false);
  await eventually(() => expect(lives).toHaveLength(1));
  lives[0]?.up();
  await eventually(() => expect(lives[0]?.asked("open")[0]).toMatchObject({ text: "Is there room?" }));
  store.onTeam(now("closed")); // older than what is heard live
  expect(store.state.widget?.now.state).toBe("open");
  expect(lives).toHaveLength(1);
});

it("connects for a chat that goes on, and not for one that is over", async () => {
  const chat = { id: "1", phase: "ended", last: 0, byVisitor: {}, byTeam: {} } as VisitorChatView;
  admission.chat = chat;
  await begun();
  expect(lives).toHaveLength(0);
  admission.chat = { ...chat, phase: "active" };
  await begun();
  await eventually(() => expect(lives).toHaveLength(1));
});

it("connects again as the same visitor after it was refused", async () => {
  const store = await begun();
  store.connect();
  await eventually(() => expect(lives).toHaveLength(1));
  lives[0]?.options.onRefused();
  await eventually(() => expect(lives).toHaveLength(2));
  expect(admitted).toBe(2);
});
