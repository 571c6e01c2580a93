import { api, ask } from "../../../shared/api";
import { tellTimesIn } from "../../../shared/format";
import { comeFurther } from "../../../shared/log";
import { ProblemError } from "../../../shared/problem";
import type { AlongPart, ChatView, Desk, EventView, SiteMoved, TeamMessage } from "../../../shared/types";
import { adoptLanguage } from "../../words/chosen";
import type { Announcing } from "./announcing";
import { merged, type Asking } from "./asking";
import type { Chats } from "./chats";
import { mayStay } from "./lists";
import type { Preferring } from "./preferring";
import type { Screen } from "./screen";
import type { Scripts } from "./scripts";
import { put, without, type Stores } from "./stores";
import type { Words } from "./words";

/** What the server keeps that a page may be showing: when it moved, it is asked for anew. */
export type Moved = "floor" | "alerts" | "reviews" | "talk" | "library" | "feedback" | "tickets";

export type TalkMessage = Extract<TeamMessage, { type: "talk" }>["message"];

/** Who else wants to know of what comes in. */
export interface Told {
  moved: (what: Moved) => void;
  talked: (message: TalkMessage) => void;
  onSite: (message: SiteMoved) => void;
  along: (part: AlongPart) => void;
  signedOut: () => void;
}

const againAfter = 1500; // milliseconds

/** Takes in what the server tells: the whole Desk after each connect, and then what moves. */
export class Intake {
  private retry: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly stores: Stores,
    private readonly screen: Screen,
    private readonly chats: Chats,
    private readonly scripts: Scripts,
    private readonly words: Words,
    private readonly preferring: Preferring,
    private readonly announcing: Announcing,
    private readonly told: Told,
    private readonly now: () => number,
  ) {}

  /** The connection came up: what was missed is asked for. */
  connected(): void {
    this.stores.team.setState(({ connects }) => ({ connects: connects + 1 }));
    this.chats.asking = undefined; // asked over the lost connection: it may never be answered
    void this.up();
  }

  /** Stops asking. */
  close(): void {
    clearTimeout(this.retry);
  }

  /** Asks for the whole Desk; one at a time, and once more when it was wanted meanwhile. */
  private async up(): Promise<void> {
    if (this.chats.asking) {
      this.chats.asking.again = true;
      return;
    }
    const asking: Asking = { again: false, moved: new Set(), gone: new Map() };
    this.chats.asking = asking;
    clearTimeout(this.retry);
    let desk: Desk;
    try {
      desk = await ask(api.GET("/api/desk"));
    } catch (error) {
      if (this.chats.asking !== asking) return;
      this.chats.asking = undefined;
      if (error instanceof ProblemError && error.problem.status === 401) this.told.signedOut();
      else this.retry = setTimeout(() => void this.up(), againAfter);
      return;
    }
    if (this.chats.asking !== asking) return;
    this.chats.asking = undefined;
    this.takeIn(desk, asking);
    if (asking.again) void this.up();
  }

  private takeIn(desk: Desk, asking: Asking): void {
    const { lanes } = this.screen;
    const had = this.stores.chats.getState().chats;
    const chats = merged(desk.chats, had, asking, (id) => lanes.numberOf(id) > 0);
    this.stores.chats.setState({ chats });
    this.chats.allPlaces(desk.places);
    tellTimesIn(desk.zone);
    const { me, operators, departments, outcomes, currency, files } = desk;
    this.stores.team.setState({ me, operators, departments, outcomes, currency, files, loaded: true });
    this.preferring.takeIn(desk.preferences);
    adoptLanguage(desk.preferences.language);
    for (const what of ["floor", "alerts", "reviews", "talk", "library", "feedback", "tickets"] as const)
      this.told.moved(what);
    for (const chat of chats.values()) {
      if (this.chats.isMine(chat) && lanes.numberOf(chat.id) === 0) lanes.open(chat.id);
    }
    for (const chat of desk.chats) this.scripts.remind(chat, had.get(chat.id));
    for (const id of lanes.list()) void this.scripts.fetch(id);
    this.screen.begin(lanes.showable()[0]);
    this.words.wake();
  }

  /** Takes in a message of the live connection. */
  receive(message: TeamMessage): void {
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
      case "alerts":
      case "reviews":
      case "tickets":
        this.told.moved(message.type);
        return;
      case "set-away":
        this.stores.team.setState({ setAwayAfter: message.passes });
        return;
      case "talk":
        this.told.talked(message.message);
        this.told.moved("talk");
        return;
      case "along":
        this.told.along(message);
        return;
      case "rooms":
        this.told.moved("talk");
        return;
      case "library":
        this.told.moved("library");
        return;
      case "draft": {
        const draft = { text: message.text, at: this.now() };
        this.stores.scripts.setState(({ drafts }) => ({ drafts: put(drafts, message.chatId, draft) }));
        return;
      }
      case "site":
        this.told.onSite(message);
        return;
      case "place":
        this.chats.place(message.place);
        return;
      case "team": {
        const me = message.operators.find((o) => o.id === this.chats.me.id) ?? this.chats.me;
        this.stores.team.setState({ operators: message.operators, me });
      }
    }
  }

  /** Takes note of how far the words of a chat have come. */
  private comeFurther(marks: Extract<TeamMessage, { type: "marks" }>): void {
    const chat = this.chats.get(marks.chatId);
    if (!chat) return;
    const further = comeFurther(chat, marks, "byTeam");
    this.stores.chats.setState(({ chats }) => ({ chats: put(chats, chat.id, further) }));
  }

  private moved(chat: ChatView, events: EventView[]): void {
    // Whosever chat it was, and though it has left the Desk.
    if (events.some((e) => e.kind === "rated" || e.kind === "feedback-read")) this.told.moved("feedback");
    const before = this.chats.get(chat.id);
    const mine = this.chats.isMine(chat);
    const wasMine = before !== undefined && this.chats.isMine(before);
    if (wasMine && !mine && chat.phase !== "ended") {
      // Handed on, put back, or left: the lane goes with it.
      this.announcing.whoHas(before, chat.ownerId, chat.ownerName);
      this.screen.lanes.close(chat.id);
      this.chats.forgetLog(chat.id);
    }
    if (!mine && !mayStay(chat, this.chats.me, this.stores.chats.getState().watched)) {
      this.chats.drop(chat.id, chat);
      return;
    }
    if (chat.phase === "ended" && !before) return;
    this.chats.put(chat);
    if (mine && !wasMine) {
      // Taken in another tab, assigned, or here a moment ago.
      this.screen.lanes.open(chat.id);
      this.screen.begin(chat.id);
      void this.scripts.fetch(chat.id);
    }
    if (this.scripts.has(chat.id)) void this.scripts.extend(chat.id, events);
    if (events.some((e) => e.kind === "said" && e.side === "visitor"))
      this.stores.scripts.setState(({ drafts }) => ({ drafts: without(drafts, chat.id) }));
    this.announcing.moved(chat, before, events);
    this.scripts.mark(chat.id);
  }

  /** A chat went to somebody else, or back to its queue. */
  private gone(message: Extract<TeamMessage, { type: "gone" }>): void {
    const { me } = this.chats;
    const had = this.chats.get(message.chatId);
    this.chats.asking?.gone.set(message.chatId, message.last);
    if (!had || message.ownerId === me.id || had.last > message.last) return;
    // Leads keep seeing their colleagues' chats; those move on by themselves.
    if (me.role !== "operator" && had.ownerId !== me.id && message.phase !== "ended") return;
    if (had.ownerId === me.id && had.phase === "active" && message.phase !== "ended") {
      this.announcing.whoHas(had, message.ownerId, message.ownerName);
      this.chats.drop(message.chatId, { ...had, ownerId: message.ownerId ?? "" });
      return;
    }
    this.chats.drop(message.chatId);
  }
}
