import { api, ask } from "../../shared/api";
import { emptyLog, extend, type Log } from "../../shared/log";
import { Live, liveURL, type LiveState } from "../../shared/live";
import { Outbox, type Unsent } from "../../shared/outbox";
import { LostError, ProblemError, wordsFor } from "../../shared/problem";
import { keepInFront } from "../../shared/storage";
import type {
  ChatView,
  Desk,
  EventView,
  OperatorView,
  PlaceView,
  Script,
  TeamMessage,
} from "../../shared/types";
import { Notices } from "../notices/notices";
import { LaneBook } from "./lanes";

/** A visitor's words that are not sent yet, and when they were last seen to change. */
export interface Draft {
  text: string;
  at: number;
}

/** All that the Desk shows. A new object for each change. */
export interface DeskState {
  me: OperatorView;
  connection: LiveState;
  loaded: boolean;
  /** What waits, what I hold, and what I held and have not closed. */
  chats: ReadonlyMap<string, ChatView>;
  places: ReadonlyMap<string, PlaceView>;
  operators: OperatorView[];
  logs: ReadonlyMap<string, Log>;
  drafts: ReadonlyMap<string, Draft>;
  unsent: ReadonlyMap<string, Unsent[]>;
  /** How often words went back into the draft of a chat, for its composer to read it anew. */
  refills: ReadonlyMap<string, number>;
  /** The lane in use. */
  focused: string;
  /** Chats that the operator is taking right now. */
  taking: ReadonlySet<string>;
}

const typingEvery = 2500;

/** Where the draft of a chat is kept. */
export function draftKey(chatId: string): string {
  return `stoop.desk.draft.${chatId}`;
}

/** Holds an operator's Desk and keeps it true. One for each tab. */
export class DeskStore {
  state: DeskState;
  readonly lanes: LaneBook;
  private readonly listeners = new Set<() => void>();
  private readonly live: Live<TeamMessage>;
  private readonly outbox: Outbox;
  private readonly notices = new Notices();
  private readonly marked = new Map<string, number>();
  private readonly fetching = new Map<string, Promise<void>>();
  private readonly typedAt = new Map<string, number>();
  private timer: ReturnType<typeof setInterval> | undefined;

  constructor(
    me: OperatorView,
    private readonly onSignedOut: () => void,
    private readonly say: (words: string) => void,
  ) {
    this.lanes = new LaneBook(me.id, () => this.set({}));
    this.state = {
      me,
      connection: "connecting",
      loaded: false,
      chats: new Map(),
      places: new Map(),
      operators: [],
      logs: new Map(),
      drafts: new Map(),
      unsent: new Map(),
      refills: new Map(),
      focused: "",
      taking: new Set(),
    };
    this.outbox = new Outbox(
      `stoop.desk.${me.id}.unsent.`,
      (message) => this.send(message),
      () => this.refreshUnsent(),
    );
    this.live = new Live<TeamMessage>({
      url: liveURL("/live/team"),
      onMessage: (message) => this.receive(message),
      onUp: () => void this.up(),
      onState: (connection) => {
        this.set({ connection });
        if (connection === "lost") void this.checkSession();
      },
      onRefused: () => this.onSignedOut(),
    });
  }

  /** Connects; returns how to stop. */
  start(): () => void {
    this.live.connect();
    const onFocus = () => this.markAll();
    addEventListener("focus", onFocus);
    document.addEventListener("visibilitychange", onFocus);
    this.timer = setInterval(() => this.tick(), 1000);
    return () => {
      this.live.close();
      removeEventListener("focus", onFocus);
      document.removeEventListener("visibilitychange", onFocus);
      clearInterval(this.timer);
    };
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): DeskState => this.state;

  now(): number {
    return this.live.now();
  }

  /** Ends this tab's use of the session. */
  signOut(): void {
    this.live.close();
    this.onSignedOut();
  }

  async setAvailable(available: boolean): Promise<void> {
    const me = await ask(api.PUT("/api/me/availability", { body: { available } }));
    this.set({ me: { ...this.state.me, available: me.available } });
  }

  /** Takes a waiting chat and opens its lane. Says so when a colleague was faster. */
  async take(id: string): Promise<void> {
    if (this.state.taking.has(id)) return;
    this.set({ taking: new Set(this.state.taking).add(id) });
    try {
      const chat = await ask(api.POST("/api/chats/{id}/take", { params: { path: { id } } }));
      this.put(chat);
      this.focus(id);
    } catch (error) {
      this.refused(id, error);
    } finally {
      const taking = new Set(this.state.taking);
      taking.delete(id);
      this.set({ taking });
    }
  }

  /** Brings a chat into a lane and makes it the one in use. */
  focus(id: string): void {
    this.lanes.open(id);
    this.set({ focused: id });
    if (!this.state.logs.has(id)) void this.fetch(id);
    this.mark(id);
  }

  /** Takes note of which lane is in use, without moving the keyboard. */
  use(id: string): void {
    if (this.state.focused !== id) this.set({ focused: id });
    this.mark(id);
  }

  /** Takes an ended chat off the Desk. */
  close(id: string): void {
    this.lanes.close(id);
    const chats = new Map(this.state.chats);
    const logs = new Map(this.state.logs);
    chats.delete(id);
    logs.delete(id);
    this.set({
      chats,
      logs,
      focused: this.state.focused === id ? (this.lanes.list()[0] ?? "") : this.state.focused,
    });
  }

  async end(id: string): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/end", { params: { path: { id } } })));
  }

  /** Sends words; they are kept until the server has them. */
  write(id: string, text: string): void {
    this.typedAt.delete(id);
    this.outbox.add(id, text);
  }

  /** Puts a message that the server refused back into the composer. */
  writeAnew(id: string, clientId: string): void {
    keepInFront(draftKey(id), this.outbox.discard(clientId));
    this.set({ refills: new Map(this.state.refills).set(id, (this.state.refills.get(id) ?? 0) + 1) });
  }

  /** Lets the visitor know that somebody types. */
  types(id: string, typing: boolean): void {
    const last = this.typedAt.get(id) ?? 0;
    if (typing && Date.now() - last < typingEvery) return;
    if (!typing && last === 0) return;
    if (typing) this.typedAt.set(id, Date.now());
    else this.typedAt.delete(id);
    this.live.call("typing", { chatId: id, typing }).catch(() => undefined); // shown again with the next key
  }

  /** My chats in the order of their lane numbers, with those just ended. */
  mine(): ChatView[] {
    const { chats, me } = this.state;
    return [...chats.values()]
      .filter((c) => c.ownerId === me.id)
      .sort((a, b) => this.lanes.numberOf(a.id) - this.lanes.numberOf(b.id));
  }

  /** What waits, in the order in which it came. */
  waiting(): ChatView[] {
    return [...this.state.chats.values()]
      .filter((c) => c.phase === "waiting")
      .sort((a, b) => Date.parse(a.startedAt) - Date.parse(b.startedAt));
  }

  private async up(): Promise<void> {
    let desk: Desk;
    try {
      desk = await ask(api.GET("/api/desk"));
    } catch (error) {
      if (error instanceof ProblemError && error.problem.status === 401) this.onSignedOut();
      else setTimeout(() => void this.up(), 1500);
      return;
    }
    const chats = new Map(desk.chats.map((c) => [c.id, c] as const));
    // Lanes of chats that ended meanwhile stay until they are closed.
    for (const id of this.lanes.list()) {
      const had = this.state.chats.get(id);
      if (!chats.has(id) && had) chats.set(id, had);
    }
    this.set({
      me: desk.me,
      chats,
      places: new Map(desk.places.map((p) => [p.visitorId, p] as const)),
      operators: desk.operators,
      loaded: true,
    });
    for (const chat of chats.values()) {
      if (chat.ownerId === desk.me.id) this.lanes.open(chat.id);
    }
    for (const id of this.lanes.list()) void this.fetch(id);
    if (!this.state.focused) this.set({ focused: this.lanes.list()[0] ?? "" });
    this.refreshUnsent();
    this.outbox.wake();
  }

  private async checkSession(): Promise<void> {
    try {
      await ask(api.GET("/api/me"));
    } catch (error) {
      if (error instanceof ProblemError && error.problem.status === 401) this.onSignedOut();
    }
  }

  private receive(message: TeamMessage): void {
    switch (message.type) {
      case "chat":
        this.moved(message.chat, message.events);
        return;
      case "gone":
        if (message.ownerId !== this.state.me.id) this.drop(message.chatId);
        return;
      case "draft":
        this.set({
          drafts: new Map(this.state.drafts).set(message.chatId, { text: message.text, at: this.now() }),
        });
        return;
      case "place":
        this.place(message.place);
        return;
      case "team": {
        const me = message.operators.find((o) => o.id === this.state.me.id);
        this.set({ operators: message.operators, me: me ?? this.state.me });
      }
    }
  }

  private moved(chat: ChatView, events: EventView[]): void {
    const mine = chat.ownerId === this.state.me.id;
    const isNew = !this.state.chats.has(chat.id);
    const atDesk = chat.phase === "waiting" || mine;
    if (!atDesk) {
      // Leads hear of all chats; the Desk shows their own.
      this.drop(chat.id);
      return;
    }
    if (chat.phase === "ended" && isNew) return;
    const wasMine = this.state.chats.get(chat.id)?.ownerId === this.state.me.id;
    this.put(chat);
    if (mine && !wasMine) {
      // Taken in another tab, or here a moment ago.
      this.lanes.open(chat.id);
      void this.fetch(chat.id);
    }
    if (this.state.logs.has(chat.id)) this.extend(chat.id, events);
    const spoken = events.findLast((e) => e.kind === "said" && e.side === "visitor");
    if (spoken) {
      const drafts = new Map(this.state.drafts);
      drafts.delete(chat.id);
      this.set({ drafts });
    }
    if (isNew && chat.phase === "waiting") this.notices.arrived(chat, this.state.me.available);
    else if (spoken && mine) this.notices.spoke(chat, spoken, this.looksAt(chat.id));
    this.mark(chat.id);
  }

  /** Two messages about a visitor may overtake each other: the page heard of last is the true one. */
  private place(got: PlaceView): void {
    const have = this.state.places.get(got.visitorId);
    const late = have && Date.parse(have.seenAt) > Date.parse(got.seenAt);
    const place = late ? { ...have, here: got.here } : got;
    this.set({ places: new Map(this.state.places).set(got.visitorId, place) });
  }

  private drop(id: string): void {
    if (!this.state.chats.has(id) || this.state.chats.get(id)?.ownerId === this.state.me.id) return;
    const chats = new Map(this.state.chats);
    chats.delete(id);
    this.set({ chats });
  }

  private refused(id: string, error: unknown): void {
    if (error instanceof ProblemError && error.problem.code === "chat-taken") {
      const faster = this.state.operators.find((o) => o.id === error.problem.ownerId)?.name ?? "A colleague";
      this.drop(id);
      this.say(`${faster} took this chat a moment before you.`);
      return;
    }
    if (error instanceof ProblemError && error.problem.code === "chat-ended") {
      this.drop(id);
      this.say("The visitor ended this chat before you took it.");
      return;
    }
    this.say(wordsFor(error));
  }

  /** A chat's view may arrive late: the one with the higher number is the truth. */
  private put(chat: ChatView): void {
    const have = this.state.chats.get(chat.id);
    if (have && have.last > chat.last) return;
    this.set({ chats: new Map(this.state.chats).set(chat.id, chat) });
  }

  private extend(id: string, events: EventView[]): void {
    const { log, gap } = extend(this.state.logs.get(id) ?? emptyLog, events);
    this.set({ logs: new Map(this.state.logs).set(id, log) });
    if (gap) void this.fetch(id);
  }

  /** Asks for what follows the last number; once at a time for each chat. */
  private fetch(id: string): Promise<void> {
    const running = this.fetching.get(id);
    if (running) return running;
    const work = this.load(id).finally(() => this.fetching.delete(id));
    this.fetching.set(id, work);
    return work;
  }

  private async load(id: string): Promise<void> {
    let script: Script;
    try {
      const after = this.state.logs.get(id)?.last ?? 0;
      script = await ask(api.GET("/api/chats/{id}", { params: { path: { id }, query: { after } } }));
    } catch (error) {
      if (error instanceof ProblemError && !error.problem.retry) this.lanes.close(id);
      return; // after a lost connection, the next one asks again
    }
    if (script.chat.ownerId !== this.state.me.id) {
      this.lanes.close(id);
      return;
    }
    this.put(script.chat);
    this.place(script.place);
    const { log } = extend(this.state.logs.get(id) ?? emptyLog, script.events);
    this.set({ logs: new Map(this.state.logs).set(id, log) });
    if (script.events.length > 0 && log.last < script.chat.last) await this.load(id);
    this.mark(id);
  }

  private async send(message: Unsent): Promise<void> {
    const { chatId, clientId, text } = message;
    const said = await this.live.call<{ event: EventView }>("say", { chatId, clientId, text });
    if (this.state.logs.has(chatId)) this.extend(chatId, [said.event]);
  }

  private refreshUnsent(): void {
    const unsent = new Map<string, Unsent[]>();
    for (const id of this.lanes.list()) unsent.set(id, this.outbox.list(id));
    this.set({ unsent });
  }

  private looksAt(id: string): boolean {
    return this.lanes.isShown(id) && document.visibilityState === "visible" && document.hasFocus();
  }

  private markAll(): void {
    for (const id of this.lanes.list()) this.mark(id);
  }

  /** Tells the visitor how far their words have come. */
  private mark(id: string): void {
    const chat = this.state.chats.get(id);
    const log = this.state.logs.get(id);
    if (!chat || !log || chat.ownerId !== this.state.me.id || !this.looksAt(id)) return;
    const last = log.events.findLast((e) => e.kind === "said" && e.side === "visitor")?.number ?? 0;
    const before = this.marked.get(id) ?? 0;
    if (last <= Math.max(chat.byTeam.seen, before)) return;
    this.marked.set(id, last);
    this.live.call("seen", { chatId: id, upTo: last }).catch((error: unknown) => {
      if (error instanceof LostError) this.marked.set(id, before); // told again after the next connect
    });
  }

  private tick(): void {
    const unseen = this.mine().filter((c) => c.phase === "active" && !this.looksAt(c.id));
    this.notices.title(
      this.waiting(),
      unseen.reduce((n, c) => n + c.unseen, 0),
      this.now(),
    );
  }

  private set(change: Partial<DeskState>): void {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}
