import { api, ask } from "../../shared/api";
import { emptyLog, extend, type Log } from "../../shared/log";
import { Live, liveURL, type LiveState } from "../../shared/live";
import { Outbox, type Unsent } from "../../shared/outbox";
import { LostError, ProblemError, wordsFor } from "../../shared/problem";
import { keepInFront } from "../../shared/storage";
import type {
  ChatView,
  DepartmentView,
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
  departments: DepartmentView[];
  logs: ReadonlyMap<string, Log>;
  drafts: ReadonlyMap<string, Draft>;
  unsent: ReadonlyMap<string, Unsent[]>;
  /** How often words went back into the draft of a chat, for its composer to read it anew. */
  refills: ReadonlyMap<string, number>;
  /** The lane in use. */
  focused: string;
  /** Chats that the operator is taking right now. */
  taking: ReadonlySet<string>;
  /** A chat that would be more than I should hold, until I say whether I mean it. */
  tooMany: { chatId: string; load: number; capacity: number } | undefined;
  /** After how many offers let by Stoop set me away, until I have read it. */
  setAwayAfter: number;
  /** Counts up whenever queues or loads move. */
  floorMoves: number;
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
      departments: [],
      logs: new Map(),
      drafts: new Map(),
      unsent: new Map(),
      refills: new Map(),
      focused: "",
      taking: new Set(),
      tooMany: undefined,
      setAwayAfter: 0,
      floorMoves: 0,
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
    this.set({ me: { ...this.state.me, available: me.available }, setAwayAfter: 0 });
  }

  /** Takes a chat and opens its lane. Says so when a colleague was faster; asks when it is too many. */
  async take(id: string, anyway = false): Promise<void> {
    if (this.state.taking.has(id)) return;
    this.set({ taking: new Set(this.state.taking).add(id), tooMany: undefined });
    try {
      const chat = await ask(
        api.POST("/api/chats/{id}/take", { params: { path: { id }, query: { anyway } } }),
      );
      this.put(chat);
      this.focus(id);
    } catch (error) {
      if (error instanceof ProblemError && error.problem.code === "over-capacity") {
        const { load = 0, capacity = 0 } = error.problem;
        this.set({ tooMany: { chatId: id, load, capacity } });
      } else {
        this.refused(id, error);
      }
    } finally {
      const taking = new Set(this.state.taking);
      taking.delete(id);
      this.set({ taking });
    }
  }

  /** Leaves a chat that would be too many where it is. */
  leaveIt(): void {
    this.set({ tooMany: undefined });
  }

  /** Takes note that I have read why I am away. */
  readAway(): void {
    this.set({ setAwayAfter: 0 });
  }

  /** Lets an offer go by. */
  async pass(id: string): Promise<void> {
    try {
      await ask(api.POST("/api/chats/{id}/pass", { params: { path: { id } } }));
    } catch (error) {
      if (!(error instanceof ProblemError && error.problem.code === "no-offer")) this.say(wordsFor(error));
    }
  }

  /** Offers a chat to a colleague or a department. */
  async handOn(id: string, to: { operatorId?: string; departmentId?: string; note: string }): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/hand-on", { params: { path: { id } }, body: to })));
  }

  /** Withdraws what I have begun to hand on. */
  async takeBack(id: string): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/take-back", { params: { path: { id } } })));
  }

  /** Returns a chat to its queue. */
  async putBack(id: string, note: string): Promise<void> {
    const chat = await ask(
      api.POST("/api/chats/{id}/put-back", { params: { path: { id } }, body: { note } }),
    );
    this.put(chat);
    this.lanes.close(id);
  }

  /** Lets a colleague speak in a chat beside me. */
  async addColleague(id: string, operator: string): Promise<void> {
    this.put(
      await ask(api.PUT("/api/chats/{id}/colleagues/{operator}", { params: { path: { id, operator } } })),
    );
  }

  /** Takes a colleague, or myself, out of a chat again. */
  async removeColleague(id: string, operator: string): Promise<void> {
    await ask(api.DELETE("/api/chats/{id}/colleagues/{operator}", { params: { path: { id, operator } } }));
    if (operator === this.state.me.id) this.close(id);
  }

  /** Brings a chat into a lane and makes it the one in use. */
  focus(id: string): void {
    this.lanes.open(id);
    this.set({ focused: id });
    if (!this.state.logs.has(id)) void this.fetch(id);
    this.mark(id);
  }

  /** Reads a chat that is not mine yet, for what was noted in it. */
  look(id: string): void {
    if (!this.state.logs.has(id)) void this.fetch(id);
  }

  /** Takes note of which lane is in use, without moving the keyboard. */
  use(id: string): void {
    if (this.state.focused !== id) this.set({ focused: id });
    this.mark(id);
  }

  /** Takes an ended chat off the Desk. */
  close(id: string): void {
    const chat = this.state.chats.get(id);
    if (chat?.phase === "ended" && chat.wrapUntil && chat.ownerId === this.state.me.id) {
      // The wrap-up is done: there is room for the next chat.
      ask(api.POST("/api/chats/{id}/wrap-up", { params: { path: { id } } })).catch((error: unknown) =>
        this.say(wordsFor(error)),
      );
    }
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

  /** Reports whether a chat is with me: mine, or one to which a colleague added me. */
  isMine(chat: ChatView): boolean {
    const { me } = this.state;
    return chat.ownerId === me.id || (chat.phase === "active" && (chat.guests ?? []).includes(me.id));
  }

  /** My chats in the order of their lane numbers, with those just ended. */
  mine(): ChatView[] {
    return [...this.state.chats.values()]
      .filter((c) => this.isMine(c))
      .sort((a, b) => this.lanes.numberOf(a.id) - this.lanes.numberOf(b.id));
  }

  /** What is offered to me, the most urgent first. */
  offers(): ChatView[] {
    const { chats, me } = this.state;
    return [...chats.values()]
      .filter((c) => c.offeredTo === me.id || c.handingTo === me.id)
      .sort((a, b) => untilOf(a) - untilOf(b));
  }

  /** What waits for my departments, in the order of the queue. */
  waiting(): ChatView[] {
    const { chats, me } = this.state;
    return [...chats.values()]
      .filter((c) => seeks(c) && !this.isMine(c) && c.offeredTo !== me.id && this.concernsMe(c))
      .sort((a, b) => b.priority - a.priority || Date.parse(a.arrived) - Date.parse(b.arrived));
  }

  /** Messages left to be answered, of my departments that are open. */
  messages(): ChatView[] {
    const open = new Set(this.state.departments.filter((d) => d.open).map((d) => d.id));
    return [...this.state.chats.values()]
      .filter((c) => c.phase === "waiting" && c.message && open.has(c.departmentId) && this.concernsMe(c))
      .sort((a, b) => Date.parse(a.arrived) - Date.parse(b.arrived));
  }

  private concernsMe(chat: ChatView): boolean {
    const { me } = this.state;
    if (chat.offeredTo === me.id || chat.handingTo === me.id) return true;
    if (me.departments.length === 0) return me.role !== "operator";
    const places = [chat.handingDepartmentId ?? chat.departmentId, ...(chat.openTo ?? [])];
    return places.some((id) => me.departments.includes(id));
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
      departments: desk.departments,
      loaded: true,
    });
    for (const chat of chats.values()) {
      if (this.isMine(chat)) this.lanes.open(chat.id);
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
        this.gone(message);
        return;
      case "refresh":
        void this.up();
        return;
      case "floor":
        this.set({ floorMoves: this.state.floorMoves + 1 });
        return;
      case "set-away":
        this.set({ setAwayAfter: message.passes });
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
    const before = this.state.chats.get(chat.id);
    const isNew = !before;
    const mine = this.isMine(chat);
    const wasMine = before !== undefined && this.isMine(before);
    if (wasMine && !mine && chat.phase !== "ended") {
      // Handed on, put back, or left: the lane goes with it.
      this.sayWhoHas(before, chat.ownerId, chat.ownerName);
      this.lanes.close(chat.id);
      this.forgetLog(chat.id);
    }
    if (chat.phase !== "waiting" && !mine && !seeks(chat) && chat.handingTo !== this.state.me.id) {
      // Leads hear of all chats; the Desk shows their own.
      this.drop(chat.id, chat);
      return;
    }
    if (chat.phase === "ended" && isNew) return;
    this.put(chat);
    if (mine && !wasMine) {
      // Taken in another tab, assigned, or here a moment ago.
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
    this.announce(chat, before, events, spoken);
    this.mark(chat.id);
  }

  /** Makes heard what concerns me, and says when something came back. */
  private announce(
    chat: ChatView,
    before: ChatView | undefined,
    events: EventView[],
    spoken: EventView | undefined,
  ): void {
    const { me } = this.state;
    const mine = this.isMine(chat);
    const offered = chat.offeredTo === me.id && before?.offeredTo !== me.id;
    const handed = chat.handingTo === me.id && before?.handingTo !== me.id;
    const assigned = mine && !(before && this.isMine(before)) && events.some((e) => e.how === "assigned");
    const picks = this.state.departments.find((d) => d.id === chat.departmentId)?.handOut === "pick";
    const arrived =
      chat.phase === "waiting" &&
      !chat.message &&
      this.concernsMe(chat) &&
      picks &&
      before?.phase !== "waiting";
    if (offered || handed || assigned || arrived) this.notices.arrived(chat, me.available || handed);
    else if (spoken && mine) this.notices.spoke(chat, spoken, this.looksAt(chat.id));
    const back = events.find((e) => e.kind === "returned" && chat.ownerId === me.id);
    if (back && back.why !== "taken-back") {
      const name = chat.name || "The visitor";
      const who = before?.handingToName ?? "Nobody";
      this.say(
        back.why === "declined"
          ? `${who} could not take ${name}. The chat is yours again.`
          : `${who} did not answer. ${name} is yours again.`,
      );
    }
  }

  /** Two messages about a visitor may overtake each other: the page heard of last is the true one. */
  private place(got: PlaceView): void {
    const have = this.state.places.get(got.visitorId);
    const late = have && Date.parse(have.seenAt) > Date.parse(got.seenAt);
    const place = late ? { ...have, here: got.here } : got;
    this.set({ places: new Map(this.state.places).set(got.visitorId, place) });
  }

  /** A chat went to somebody else, or back to its queue. */
  private gone(message: Extract<TeamMessage, { type: "gone" }>): void {
    const { me } = this.state;
    const had = this.state.chats.get(message.chatId);
    if (!had || message.ownerId === me.id) return;
    if (had.ownerId === me.id && had.phase === "active" && message.phase !== "ended") {
      this.sayWhoHas(had, message.ownerId, message.ownerName);
      this.drop(message.chatId, { ...had, ownerId: message.ownerId ?? "" });
      return;
    }
    this.drop(message.chatId);
  }

  private sayWhoHas(had: ChatView, ownerId: string | undefined, ownerName: string | undefined): void {
    const { me } = this.state;
    if (had.ownerId !== me.id || !ownerId || ownerId === me.id) return;
    this.say(`${ownerName ?? "A colleague"} has the chat with ${had.name || "the visitor"} now.`);
  }

  /** Takes a chat off the Desk that is not mine; what it is now may be given. */
  private drop(id: string, now?: ChatView): void {
    const had = this.state.chats.get(id);
    if (!had || this.isMine(now ?? had)) return;
    this.lanes.close(id);
    const chats = new Map(this.state.chats);
    chats.delete(id);
    this.set({ chats });
  }

  private forgetLog(id: string): void {
    const logs = new Map(this.state.logs);
    logs.delete(id);
    this.set({
      logs,
      focused: this.state.focused === id ? (this.lanes.list()[0] ?? "") : this.state.focused,
    });
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
    if (error instanceof ProblemError && error.problem.code === "offered") {
      const asked = this.state.operators.find((o) => o.id === error.problem.ownerId)?.name ?? "A colleague";
      this.say(`${asked} is being asked right now. The chat comes back if they do not take it.`);
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
    if (!this.isMine(script.chat) && script.chat.handingTo !== this.state.me.id) {
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
    const waiting = [...this.offers(), ...this.waiting()];
    const unseen = this.mine().filter((c) => c.phase === "active" && !this.looksAt(c.id));
    this.notices.title(
      waiting,
      unseen.reduce((n, c) => n + c.unseen, 0),
      this.now(),
    );
  }

  private set(change: Partial<DeskState>): void {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}

/** Reports whether a chat looks for somebody in a department. */
function seeks(chat: ChatView): boolean {
  return (
    (chat.phase === "waiting" && !chat.message) ||
    (chat.phase === "active" && chat.handingDepartmentId !== undefined)
  );
}

function untilOf(chat: ChatView): number {
  return Date.parse(chat.offeredUntil ?? chat.handingUntil ?? chat.since);
}
