// What tests of the Desk begin with: a team, chats, and a server that answers
// what the test says. Used together with vi.mock of live.ts.
import { expect, vi } from "vitest";

import { eventually } from "../../shared/eventually";
import { FakeLive } from "../../shared/fake-live";
import type { ChatView, Desk, EventView, OperatorView, PlaceView } from "../../shared/types";
import { DeskStore } from "./store/desk-store";
import * as lists from "./store/lists";

export const operator = (id: string, name: string): OperatorView => ({
  id,
  name,
  email: `${id}@example.com`,
  role: "operator",
  state: "available",
  available: true,
  load: 0,
  offered: 0,
  capacity: 4,
  departments: ["help"],
});
export const maren = operator("maren", "Maren Holt");
export const idris = operator("idris", "Idris Vane");

export const chat = (id: string, change: Partial<ChatView> = {}): ChatView => ({
  id,
  visitorId: `visitor-${id}`,
  name: id,
  email: "",
  phase: "waiting",
  last: 2,
  startedAt: "2026-09-17T13:33:00Z",
  turn: "team",
  turnSince: "2026-09-17T13:33:00Z",
  targetSeconds: 60,
  soonSeconds: 40,
  hasFlow: false,
  ways: [],
  lastWords: "Is there room?",
  lastWordsSide: "visitor",
  unseen: 1,
  byVisitor: { delivered: 0, seen: 0 },
  byTeam: { delivered: 0, seen: 0 },
  messageLimit: 2000,
  widgetName: "Kelpwick Ferries",
  departmentId: "help",
  departmentName: "Travel help",
  priority: 0,
  message: false,
  arrived: "2026-09-17T13:33:00Z",
  since: "2026-09-17T13:33:00Z",
  order: "2026-09-17T13:33:00Z",
  handOns: 0,
  tags: [],
  needsOutcome: false,
  unread: false,
  draftsSeen: true,
  ...lineOf(change),
  ...change,
});

// As core/chat says it: where a chat looks for somebody.
function lineOf({ phase = "waiting", departmentId = "help", handingDepartmentId }: Partial<ChatView>) {
  const seeking = phase === "waiting" ? departmentId : phase === "active" ? handingDepartmentId : undefined;
  return seeking ? { lineOf: [seeking] } : {};
}

export const said = (number: number, text: string): EventView => ({
  number,
  kind: "said",
  at: "2026-09-17T13:33:00Z",
  side: "visitor",
  by: "v",
  name: "Wren",
  text,
});

export const place = (visitorId: string, change: Partial<PlaceView> = {}): PlaceView => ({
  visitorId,
  place: {},
  here: true,
  pageUrl: "/fares",
  pageTitle: "Fares",
  pageSince: "2026-09-17T13:30:00Z",
  seenAt: "2026-09-17T13:30:00Z",
  language: "en",
  userAgent: "",
  ...change,
});

/** The server's HTTP side: answers by path. */
export class FakeServer {
  desk: Desk = {
    now: "2026-09-17T13:33:00Z",
    me: maren,
    chats: [],
    places: [],
    operators: [maren, idris],
    departments: [{ id: "help", name: "Travel help", open: true, mine: true, handOut: "pick" }],
    preferences: {},
    outcomes: ["Answered", "Sold"],
    currency: "EUR",
    zone: "UTC",
    files: { maxBytes: 1000, kinds: ["picture"] },
  };
  /** What it answers, by method and path or by path alone; or a function of what was sent. */
  answers = new Map<string, Answer | ((body: unknown) => Answer)>();
  /** What must happen first before it answers, by method and path. */
  hold = new Map<string, Promise<void>>();
  asked: string[] = [];
  /** What was sent to change something. */
  sent: { what: string; body: unknown }[] = [];

  fetch = async (request: Request): Promise<Response> => {
    const url = new URL(request.url);
    const path = url.pathname + url.search;
    this.asked.push(path);
    // What it answers is decided when it is asked, not when all has been read.
    const known = this.answers.get(`${request.method} ${path}`) ?? this.answers.get(path);
    const text = await request.text();
    const sent: unknown = text ? JSON.parse(text) : undefined;
    if (request.method !== "GET") this.sent.push({ what: `${request.method} ${path}`, body: sent });
    await this.hold.get(`${request.method} ${path}`);
    const { status, body } =
      (typeof known === "function" ? known(sent) : known) ??
      (path === "/api/desk"
        ? { status: 200, body: this.desk }
        : { status: 404, body: { code: "not-found", retry: false } });
    return new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
  };

  /** The bodies of what was sent under a method and path. */
  got(what: string): unknown[] {
    return this.sent.filter((s) => s.what === what).map((s) => s.body);
  }
}

interface Answer {
  status: number;
  body: unknown;
}

/** An answer that it worked. */
export const fine = (body: unknown): Answer => ({ status: 200, body });

/** An answer that it did not, with the words for it. */
export const refused = (title: string, more: object = {}): Answer => ({
  status: 422,
  body: { code: "refused", title, detail: "Try something else.", status: 422, retry: false, ...more },
});

/** The lists of chats that a Desk shows now. */
export function listed({ stores }: DeskStore) {
  const { chats } = stores.chats.getState();
  const { me, departments } = stores.team.getState();
  return {
    mine: () => lists.mine(chats, me, stores.windows.getState().lanes.numbers),
    offers: () => lists.offers(chats, me),
    waiting: () => lists.waiting(chats, me),
    messages: () => lists.messages(chats, me, departments),
    calls: () => lists.calls(chats, me),
    ofColleagues: () => lists.ofColleagues(chats, me),
  };
}

/** Opens a Desk that is connected and has its line. */
export async function open(
  server: FakeServer,
  me: OperatorView = maren,
): Promise<{ store: DeskStore; live: FakeLive<never>; words: string[]; out: () => number }> {
  vi.stubGlobal("fetch", server.fetch);
  const words: string[] = [];
  let signedOut = 0;
  const store = new DeskStore(me, {
    signedOut: () => signedOut++,
    say: (w) => words.push(w),
    moved: () => undefined,
  });
  const live = FakeLive.last;
  live.up();
  await eventually(() => expect(store.stores.team.getState().loaded).toBe(true));
  return { store, live, words, out: () => signedOut };
}
