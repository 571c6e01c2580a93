import { api, ask } from "../../shared/api";
import { comeFurther, emptyLog, extend, type Log, withMarks } from "../../shared/log";
import { Live, liveURL, type LiveState } from "../../shared/live";
import { Outbox, type Unsent } from "../../shared/outbox";
import { LostError, ProblemError, wordsFor } from "../../shared/problem";
import { keep, keepInFront, kept } from "../../shared/storage";
import { refusal } from "../../shared/upload";
import { uuid } from "../../shared/uuid";
import type {
  ChatView,
  DepartmentView,
  Desk,
  EventView,
  FileLimits,
  OperatorView,
  PlaceView,
  Preferences,
  SaleView,
  Script,
  Suggestion,
  TeamMessage,
} from "../../shared/types";
import { Notices } from "../notices/notices";
import { merged, type Asking } from "./asking";
import { addMadeOf, draftKey, modeKey } from "./drafts";
import { LaneBook } from "./lanes";
import { Uploads, type Attached, type Upload } from "./uploads";
import { isLaneWindow, Windows } from "./windows";

/** A visitor's words that are not sent yet, and when they were last seen to change. */
export interface Draft {
  text: string;
  at: number;
}

/** A chat of the same person that is read beside the one in use. */
export interface Beside {
  id: string;
  of: string;
}

/** All that the Desk shows. A new object for each change. */
export interface DeskState {
  me: OperatorView;
  connection: LiveState;
  /** How often the connection came up: what was missed in between must be asked for. */
  connects: number;
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
  preferences: Preferences;
  outcomes: string[];
  currency: string;
  files: FileLimits;
  uploads: ReadonlyMap<string, Upload[]>;
  /** Chats that I read along as a lead. */
  watched: ReadonlySet<string>;
  beside: Beside | undefined;
  /** The lane that is shown without the others; empty for all. */
  alone: string;
  /** Counts up whenever rooms or the Library move. */
  talkMoves: number;
  libraryMoves: number;
}

// When no frame comes in this time, in milliseconds, the page is not being drawn.
const latestFrame = 100;

const typingEvery = 2500;

type TalkMessage = Extract<TeamMessage, { type: "talk" }>["message"];

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
  private readonly uploads = new Uploads(
    (uploads) => this.set({ uploads }),
    (id, event) => {
      if (this.state.logs.has(id)) this.extend(id, [event]);
    },
  );
  private readonly windows = new Windows((ids) => this.lanes.setOutside(ids));
  private telling = false;
  private readonly attached = new Map<string, Attached[]>();
  private readonly droppers = new Map<string, (files: File[]) => void>();
  private preferencesTimer: ReturnType<typeof setTimeout> | undefined;
  private unsavedPreferences: Preferences = {};
  private readonly talkListeners = new Set<(message: TalkMessage) => void>();
  private asking: Asking | undefined;
  private retry: ReturnType<typeof setTimeout> | undefined;

  constructor(
    me: OperatorView,
    private readonly onSignedOut: () => void,
    private readonly say: (words: string) => void,
  ) {
    this.lanes = new LaneBook(me.id, () => this.set({}));
    this.state = {
      me,
      connection: "connecting",
      connects: 0,
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
      preferences: {},
      outcomes: [],
      currency: "EUR",
      files: { maxBytes: 25 * 1024 * 1024, kinds: [] },
      uploads: new Map(),
      watched: new Set(),
      beside: undefined,
      alone: "",
      talkMoves: 0,
      libraryMoves: 0,
    };
    this.outbox = new Outbox(
      `stoop.desk.${me.id}.unsent.`,
      (message) => this.send(message),
      () => this.refreshUnsent(),
    );
    this.live = new Live<TeamMessage>({
      url: liveURL("/live/team"),
      onMessage: (message) => this.receive(message),
      onUp: () => {
        this.set({ connects: this.state.connects + 1 });
        this.asking = undefined; // asked over the lost connection: it may never be answered
        void this.up();
      },
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
      clearTimeout(this.retry);
      this.windows.close();
      this.notices.close();
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
      this.writeTo(id);
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
    this.turnFrom(id);
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
    if (this.lanes.isOutside(id)) {
      this.windows.show(id);
      return;
    }
    this.lanes.open(id);
    this.set({ focused: id, alone: this.state.alone ? id : "" });
    this.pickUp(id);
    if (!this.state.logs.has(id)) void this.fetch(id);
    this.mark(id);
  }

  /**
   * Brings a chat into a lane and the keyboard into its composer: the lane in
   * use and the one that is typed in are never two different ones.
   */
  writeTo(id: string): void {
    this.focus(id);
    let tries = 20; // frames: a lane that was not there must be drawn first
    const look = () => {
      const field = document.getElementById(`write-${id}`);
      if (field) field.focus();
      else if (--tries > 0) requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  }

  /** Reads a chat that is not mine yet, for what was noted in it. */
  look(id: string): void {
    if (!this.state.logs.has(id)) void this.fetch(id);
  }

  /** Coming back to a chat that was marked unread takes the mark away. */
  private pickUp(id: string): void {
    if (this.state.chats.get(id)?.unread) {
      this.markUnread(id, false).catch((error: unknown) => this.say(wordsFor(error)));
    }
  }

  /** Takes note of which lane is in use, without moving the keyboard. */
  use(id: string): void {
    if (this.state.focused !== id) {
      this.set({ focused: id });
      this.pickUp(id);
    }
    this.mark(id);
  }

  /** Other lanes are on screen now: what stands in them is seen. */
  lookAgain(): void {
    this.markAll();
  }

  /** Takes an ended chat off the Desk. */
  close(id: string): void {
    const chat = this.state.chats.get(id);
    if (
      chat?.phase === "ended" &&
      chat.wrapUntil &&
      !chat.needsOutcome &&
      chat.ownerId === this.state.me.id
    ) {
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
    this.set({ chats, logs });
    this.turnFrom(id);
    this.rest();
  }

  /** Puts the keyboard where nothing can be sent by a slip: the script of the lane in use, or the line. */
  private rest(): void {
    requestAnimationFrame(() => {
      if (document.activeElement && document.activeElement !== document.body) return;
      const lane =
        document.querySelector<HTMLElement>(".lane.here .script") ??
        document.querySelector<HTMLElement>(".line button");
      lane?.focus();
    });
  }

  async end(id: string): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/end", { params: { path: { id } } })));
  }

  /** Sends words; they are kept until the server has them. */
  write(id: string, text: string, canned?: string): void {
    this.typedAt.delete(id);
    this.outbox.add(id, text, canned ? { canned } : undefined);
  }

  /** Replaces my own words, within a minute. */
  async correct(id: string, number: number, text: string): Promise<void> {
    const path = { id, number };
    await ask(api.PUT("/api/chats/{id}/events/{number}", { params: { path }, body: { text } }));
  }

  /** Takes my own words or file back, within a minute. */
  async withdraw(id: string, number: number): Promise<void> {
    await ask(api.DELETE("/api/chats/{id}/events/{number}", { params: { path: { id, number } } }));
  }

  /** Notes something that only the team sees. */
  async note(id: string, text: string): Promise<void> {
    const body = { clientId: uuid(), text };
    this.put(await ask(api.POST("/api/chats/{id}/notes", { params: { path: { id } }, body })));
  }

  /** Tells a chat's owner something that the visitor does not see. */
  async whisper(id: string, text: string): Promise<void> {
    const body = { clientId: uuid(), text };
    this.put(await ask(api.POST("/api/chats/{id}/whispers", { params: { path: { id } }, body })));
  }

  async tag(id: string, tag: string, on: boolean): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/tags", { params: { path: { id } }, body: { tag, on } })));
  }

  async summarise(id: string, text: string): Promise<void> {
    this.put(await ask(api.PUT("/api/chats/{id}/summary", { params: { path: { id } }, body: { text } })));
  }

  /** Puts down how a chat came out. Only what is given changes: outcome and sale are two answers. */
  async conclude(
    id: string,
    body: { outcome: string } | { sale: SaleView } | { noSale: true },
  ): Promise<void> {
    this.put(await ask(api.PUT("/api/chats/{id}/outcome", { params: { path: { id } }, body })));
  }

  async markUnread(id: string, unread: boolean): Promise<void> {
    this.put(await ask(api.PUT("/api/chats/{id}/unread", { params: { path: { id } }, body: { unread } })));
  }

  /** Asks a department for help. */
  async callTeam(id: string, departmentId: string, text: string): Promise<void> {
    const body = { departmentId, text };
    this.put(await ask(api.POST("/api/chats/{id}/call", { params: { path: { id } }, body })));
  }

  async endCall(id: string): Promise<void> {
    this.put(await ask(api.DELETE("/api/chats/{id}/call", { params: { path: { id } } })));
  }

  /** Joins a chat that asks for help, or as a lead any. */
  async join(id: string): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/join", { params: { path: { id } } })));
    this.unwatched(id);
    this.writeTo(id);
  }

  /** Becomes the owner of a colleague's chat. */
  async takeOver(id: string): Promise<void> {
    this.put(await ask(api.POST("/api/chats/{id}/take-over", { params: { path: { id } } })));
    this.unwatched(id);
    this.writeTo(id);
  }

  /** Reads a chat along, unseen, in a lane. */
  async watch(id: string): Promise<void> {
    this.put(await ask(api.PUT("/api/chats/{id}/watch", { params: { path: { id } }, body: { on: true } })));
    this.set({ watched: new Set(this.state.watched).add(id) });
    this.writeTo(id); // what is typed next is a whisper, and gets lost nowhere
    await this.fetch(id);
  }

  /** Stops reading along. */
  async stopWatching(id: string): Promise<void> {
    this.unwatched(id);
    this.lanes.close(id);
    this.turnFrom(id);
    await ask(api.PUT("/api/chats/{id}/watch", { params: { path: { id } }, body: { on: false } }));
  }

  private unwatched(id: string): void {
    const watched = new Set(this.state.watched);
    watched.delete(id);
    this.set({ watched });
  }

  /** Bans the visitor of a chat, or a network, and ends what is open from there. */
  async ban(order: { chatId?: string; network?: string; reason: string; hours: number }): Promise<void> {
    await ask(api.POST("/api/bans", { body: order }));
  }

  /** Asks for canned responses that fit what is being typed; all searches in all of them. */
  suggest(id: string, text: string, all: boolean): Promise<Suggestion[]> {
    return this.live.call<Suggestion[]>("suggest", { chatId: id, text, all });
  }

  /** Returns the files that wait in a chat's composer, also after its lane was away. */
  attachedTo(id: string): Attached[] {
    return this.attached.get(id) ?? [];
  }

  keepAttached(id: string, files: Attached[]): void {
    if (files.length > 0) this.attached.set(id, files);
    else this.attached.delete(id);
  }

  /** Lets a composer take what is dropped on its lane; returns how to stop. */
  onDrop(id: string, take: (files: File[]) => void): () => void {
    this.droppers.set(id, take);
    return () => this.droppers.delete(id);
  }

  /** Files were dropped on a lane. */
  dropped(id: string, files: File[]): void {
    this.droppers.get(id)?.(files);
  }

  /** Sends files, each as a message of its own; what fails can be tried again. */
  share(id: string, files: Attached[]): void {
    this.uploads.share(id, files);
  }

  /** Tries an upload again that did not go. */
  shareAgain(clientId: string): void {
    this.uploads.again(clientId);
  }

  /** Gives an upload up. */
  cancelUpload(id: string, clientId: string): void {
    this.uploads.cancel(id, clientId);
  }

  /** Says why a file will not be taken, before it is sent; empty when it may be. */
  refusalOf(file: File): string {
    return refusal(file, this.state.files);
  }

  /** Changes how I want my console: here at once, on the server a moment later. */
  prefer(change: Preferences): void {
    this.unsavedPreferences = { ...this.unsavedPreferences, ...change };
    this.set({ preferences: { ...this.state.preferences, ...change } });
    this.notices.prefer(this.state.preferences);
    clearTimeout(this.preferencesTimer);
    this.preferencesTimer = setTimeout(() => void this.savePreferences(), 400);
  }

  private async savePreferences(): Promise<void> {
    const body = this.unsavedPreferences;
    this.unsavedPreferences = {};
    try {
      await ask(api.PATCH("/api/me/preferences", { body }));
    } catch {
      // Kept for the next change, or the next connect.
      this.unsavedPreferences = { ...body, ...this.unsavedPreferences };
    }
  }

  /** Takes a lane away; the chat stays in the line. */
  putAway(id: string): void {
    if (this.state.watched.has(id)) {
      this.stopWatching(id).catch((error: unknown) => this.say(wordsFor(error)));
      return;
    }
    this.lanes.putAway(id);
    this.turnFrom(id);
  }

  /** Lets another lane be the one in use when this one is not on screen any more. */
  private turnFrom(id: string): void {
    const { focused, alone, beside } = this.state;
    this.set({
      focused: focused === id ? (this.lanes.showable()[0] ?? "") : focused,
      alone: alone === id ? "" : alone,
      beside: beside?.of === id ? undefined : beside,
    });
  }

  /** Shows a lane alone, or all of them again. */
  showAlone(id: string): void {
    this.set({ alone: this.state.alone === id ? "" : id });
  }

  /** Opens a lane in a window of its own. */
  openWindow(id: string): void {
    if (!this.windows.open(id)) this.say("The browser blocked the window. Allow pop-ups for this page.");
  }

  /** Tells the other windows that this one shows a lane. */
  isWindowOf(id: string): () => void {
    return this.windows.hold(id);
  }

  /** Reads an earlier chat beside the lane in use. */
  readBeside(beside: Beside | undefined): void {
    this.set({ beside });
  }

  /** Calls listener for each word of the team talk. */
  onTalk(listener: (message: TalkMessage) => void): () => void {
    this.talkListeners.add(listener);
    return () => this.talkListeners.delete(listener);
  }

  /** Makes a sound as it would be heard. */
  testSound(kind: "arrival" | "words"): void {
    this.notices.test(kind);
  }

  /** Puts a message that the server refused back into the composer. */
  writeAnew(id: string, clientId: string): void {
    keepInFront(draftKey(id), this.outbox.discard(clientId));
    this.set({ refills: new Map(this.state.refills).set(id, (this.state.refills.get(id) ?? 0) + 1) });
  }

  /** Puts a canned response into the composer of a chat, behind what is typed there. */
  putInComposer(id: string, response: Suggestion): void {
    const draft = kept(draftKey(id));
    keep(draftKey(id), draft ? `${draft.trimEnd()} ${response.text}` : response.text);
    keep(modeKey(id), null); // it is for the visitor
    addMadeOf(id, response);
    const files = (response.files ?? []).map((stored) => ({ key: uuid(), stored }));
    this.keepAttached(id, [...this.attachedTo(id), ...files]);
    this.set({ refills: new Map(this.state.refills).set(id, (this.state.refills.get(id) ?? 0) + 1) });
    requestAnimationFrame(() => document.getElementById(`write-${id}`)?.focus());
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

  /** Chats of colleagues who ask my departments for help, the longest first. */
  calls(): ChatView[] {
    const { chats, me } = this.state;
    return [...chats.values()]
      .filter((c) => c.callDepartmentId && me.departments.includes(c.callDepartmentId) && !this.isMine(c))
      .sort((a, b) => Date.parse(a.callSince ?? a.since) - Date.parse(b.callSince ?? b.since));
  }

  /** Chats that my colleagues hold, for leads. */
  ofColleagues(): ChatView[] {
    return [...this.state.chats.values()].filter((c) => c.phase === "active" && !this.isMine(c));
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

  /** What waits for my departments, in the order that the server hands them out. */
  waiting(): ChatView[] {
    const { chats, me } = this.state;
    return [...chats.values()]
      .filter((c) => !c.message && !this.isMine(c) && c.offeredTo !== me.id && this.inMyLine(c))
      .sort(
        (a, b) => Date.parse(a.order) - Date.parse(b.order) || Date.parse(a.arrived) - Date.parse(b.arrived),
      );
  }

  /** Messages left to be answered, of my departments that are open. */
  messages(): ChatView[] {
    const open = new Set(this.state.departments.filter((d) => d.open).map((d) => d.id));
    return [...this.state.chats.values()]
      .filter((c) => c.message && open.has(c.departmentId) && this.inMyLine(c))
      .sort((a, b) => Date.parse(a.arrived) - Date.parse(b.arrived));
  }

  /** Reports whether a chat stands in my line: the server says in whose it does. Leads without a department see all. */
  private inMyLine({ lineOf }: ChatView): boolean {
    const { me } = this.state;
    if (!lineOf) return false;
    if (me.departments.length === 0) return me.role !== "operator";
    return lineOf.some((id) => me.departments.includes(id));
  }

  /** Asks for the whole Desk; one at a time, and once more when it was wanted meanwhile. */
  private async up(): Promise<void> {
    if (this.asking) {
      this.asking.again = true;
      return;
    }
    const asking: Asking = { again: false, moved: new Set(), gone: new Map() };
    this.asking = asking;
    clearTimeout(this.retry);
    let desk: Desk;
    try {
      desk = await ask(api.GET("/api/desk"));
    } catch (error) {
      if (this.asking !== asking) return;
      this.asking = undefined;
      if (error instanceof ProblemError && error.problem.status === 401) this.onSignedOut();
      else this.retry = setTimeout(() => void this.up(), 1500);
      return;
    }
    if (this.asking !== asking) return;
    this.asking = undefined;
    this.takeIn(desk, asking);
    if (asking.again) void this.up();
  }

  private takeIn(desk: Desk, asking: Asking): void {
    const chats = merged(desk.chats, this.state.chats, asking, (id) => this.lanes.numberOf(id) > 0);
    this.set({
      me: desk.me,
      chats,
      places: new Map(desk.places.map((p) => [p.visitorId, p] as const)),
      operators: desk.operators,
      departments: desk.departments,
      preferences: { ...desk.preferences, ...this.unsavedPreferences },
      outcomes: desk.outcomes,
      currency: desk.currency,
      files: desk.files,
      loaded: true,
      talkMoves: this.state.talkMoves + 1,
    });
    this.notices.prefer(this.state.preferences);
    if (Object.keys(this.unsavedPreferences).length > 0) void this.savePreferences();
    for (const chat of chats.values()) {
      if (this.isMine(chat) && this.lanes.numberOf(chat.id) === 0) this.lanes.open(chat.id);
    }
    for (const id of this.lanes.list()) void this.fetch(id);
    if (!this.state.focused) this.set({ focused: this.lanes.showable()[0] ?? "" });
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
      case "marks":
        this.comeFurther(message);
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
      case "talk":
        for (const listener of this.talkListeners) listener(message.message);
        if (message.message.by !== this.state.me.id) this.notices.talked(message.message);
        this.set({ talkMoves: this.state.talkMoves + 1 });
        return;
      case "rooms":
        this.set({ talkMoves: this.state.talkMoves + 1 });
        return;
      case "library":
        this.set({ libraryMoves: this.state.libraryMoves + 1 });
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

  /** Takes note of how far the words of a chat have come. */
  private comeFurther(marks: Extract<TeamMessage, { type: "marks" }>): void {
    const chat = this.state.chats.get(marks.chatId);
    if (!chat) return;
    this.set({ chats: new Map(this.state.chats).set(chat.id, comeFurther(chat, marks, "byTeam")) });
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
    if (!mine && !this.mayStay(chat)) {
      this.drop(chat.id, chat);
      return;
    }
    if (chat.phase === "ended" && isNew) return;
    this.put(chat);
    if (mine && !wasMine) {
      // Taken in another tab, assigned, or here a moment ago.
      this.lanes.open(chat.id);
      if (!this.state.focused) this.set({ focused: chat.id });
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

  /** Reports whether a chat that is not mine belongs into my line, or is a colleague's whom I lead. */
  private mayStay(chat: ChatView): boolean {
    const { me, watched } = this.state;
    if (chat.phase === "ended") return watched.has(chat.id);
    return (
      chat.lineOf !== undefined ||
      chat.handingTo === me.id ||
      chat.callDepartmentId !== undefined ||
      me.role !== "operator"
    );
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
    const arrived = this.rings(chat) && chat.phase === "waiting" && before?.phase !== "waiting";
    const called =
      chat.callDepartmentId !== undefined &&
      before?.callDepartmentId === undefined &&
      !mine &&
      me.departments.includes(chat.callDepartmentId);
    if (offered || handed || assigned || arrived || called)
      this.notices.arrived(chat, me.available || handed, called);
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

  /** Reports whether a chat rings for as long as it waits: mine to take, or where operators pick themselves. */
  private rings(chat: ChatView): boolean {
    const { me, departments } = this.state;
    if (!me.available && chat.handingTo !== me.id) return false;
    if (chat.offeredTo === me.id || chat.handingTo === me.id || chat.callDepartmentId !== undefined)
      return true;
    const picks = departments.find((d) => d.id === chat.departmentId)?.handOut === "pick";
    return chat.phase === "waiting" && !chat.message && picks && this.inMyLine(chat);
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
    this.asking?.gone.set(message.chatId, message.last);
    if (!had || message.ownerId === me.id || had.last > message.last) return;
    // Leads keep seeing their colleagues' chats; those move on by themselves.
    if (me.role !== "operator" && had.ownerId !== me.id && message.phase !== "ended") return;
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
    // Seen to be another's: whatever says less than that is older.
    const last = now?.last ?? (had?.last ?? 0) + 1;
    this.asking?.gone.set(id, Math.max(last, this.asking.gone.get(id) ?? 0));
    if (!had || this.isMine(now ?? had) || this.state.watched.has(id)) return;
    this.lanes.close(id);
    const chats = new Map(this.state.chats);
    chats.delete(id);
    this.set({ chats });
    this.turnFrom(id);
  }

  private forgetLog(id: string): void {
    const logs = new Map(this.state.logs);
    logs.delete(id);
    this.set({ logs });
    this.turnFrom(id);
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
    this.asking?.moved.add(chat.id);
    if (have && have.last > chat.last) return;
    this.set({ chats: new Map(this.state.chats).set(chat.id, withMarks(chat, have)) });
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
    if (!this.mayRead(script.chat)) {
      this.lanes.close(id);
      return;
    }
    this.put(script.chat);
    this.place(script.place);
    const { log } = extend(this.state.logs.get(id) ?? emptyLog, script.events);
    this.set({ logs: new Map(this.state.logs).set(id, log) });
    // More than was asked for at once, or said while it was on its way.
    const told = this.state.chats.get(id)?.last ?? 0;
    if (log.last < told && (script.events.length > 0 || script.chat.last < told)) await this.load(id);
    this.mark(id);
  }

  /** Reports whether a chat's words are for me: mine, handed to me, asking me for help, or watched. */
  private mayRead(chat: ChatView): boolean {
    const { me, watched } = this.state;
    const asked = chat.callDepartmentId !== undefined && me.departments.includes(chat.callDepartmentId);
    return this.isMine(chat) || chat.handingTo === me.id || asked || watched.has(chat.id);
  }

  private async send(message: Unsent): Promise<void> {
    const { chatId, clientId, text } = message;
    const said = await this.live.call<{ event: EventView }>("say", {
      chatId,
      clientId,
      text,
      ...message.extra,
    });
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
    const last =
      log.events.findLast((e) => (e.kind === "said" || e.kind === "shared") && e.side === "visitor")
        ?.number ?? 0;
    const before = this.marked.get(id) ?? 0;
    if (last <= Math.max(chat.byTeam.seen, before)) return;
    this.marked.set(id, last);
    this.live.call("seen", { chatId: id, upTo: last }).catch((error: unknown) => {
      if (error instanceof LostError) this.marked.set(id, before); // told again after the next connect
    });
  }

  private tick(): void {
    if (isLaneWindow()) return; // its title is the visitor's name
    const waiting = [...this.offers(), ...this.waiting(), ...this.calls()];
    const unseen = this.mine().filter((c) => c.phase === "active" && !this.looksAt(c.id));
    this.notices.title(
      waiting,
      unseen.reduce((n, c) => n + c.unseen, 0),
      this.now(),
    );
    this.notices.stillWaits(waiting.filter((c) => this.rings(c)).length, Date.now());
  }

  private set(change: Partial<DeskState>): void {
    const turned = change.focused !== undefined && change.focused !== this.state.focused;
    this.state = { ...this.state, ...change };
    if (turned) {
      this.tell(); // the next key may follow at once, and is meant for this lane
      return;
    }
    if (this.telling) return;
    // Whatever comes within one frame is drawn once. A page that nobody sees gets
    // no frames, and may lose sight of them while it waits for one.
    this.telling = true;
    const tell = () => {
      clearTimeout(late);
      if (this.telling) this.tell();
    };
    const late = setTimeout(tell, document.hidden ? 0 : latestFrame);
    if (!document.hidden && "requestAnimationFrame" in globalThis) requestAnimationFrame(tell);
  }

  private tell(): void {
    this.telling = false;
    for (const listener of this.listeners) listener();
  }
}

function untilOf(chat: ChatView): number {
  return Date.parse(chat.offeredUntil ?? chat.handingUntil ?? chat.since);
}
