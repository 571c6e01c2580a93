import { comeFurther, emptyLog, extend, withMarks } from "../../shared/log";
import type { Live } from "../../shared/live";
import { Outbox, type Unsent } from "../../shared/outbox";
import { LostError, mayRetry, ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { uuid } from "../../shared/uuid";
import { keep, keepInFront, keepJSON, kept, keptJSON } from "../../shared/storage";
import type {
  Admission,
  EventView,
  Opened,
  Problem,
  VisitorChatView,
  VisitorMessage,
  WidgetView,
  Wish,
} from "../../shared/types";
import { admit } from "./admission";
import { speaksAs } from "./speaks";
import { draftKey, startKey, type StartDraft } from "./drafts";
import type { Answers } from "./help/answers";
import { framed, tellHost, type Invitation } from "./host";
import { atFirst, type PanelState } from "./state";
import type { Destination, Uploads } from "./uploads";

interface Page {
  url: string;
  title: string;
  /** What is shown in this tab: the chat and the number of the offer. */
  shown?: string;
  /** And with whom it is seen. */
  along?: string;
}

interface Resumed {
  chat?: VisitorChatView | null;
  events: EventView[];
}

// Someone who stopped typing without sending is not typing any more.
const typingFor = 6000;
const draftEvery = 400;
const againAfter = 2000;

/** What a visitor asks who is to go on by another way. */
type Going = "go-on-code" | "go-on-by-mail" | "stay";

/** Holds the visitor's conversation and keeps it true over reloads and lost networks. */
export class PanelStore {
  state = atFirst;
  private sharing: Uploads | undefined;
  private readonly listeners = new Set<() => void>();
  readonly tokenKey: string;
  private live: Live<VisitorMessage> | undefined;
  /** Its code is on its way. */
  private coming = false;
  private wanted = false;
  private outbox: Outbox;
  page: Page | undefined;
  /** Hears what who looks along wants of the page. */
  declare wishes?: ((wish: Wish) => void) | undefined;
  /** Where a visitor's answers come from, if not from the server. */
  declare answers?: Answers;
  private shown = false;
  /** The page around takes what is put in the basket. */
  takes = false;
  private typingTimer: ReturnType<typeof setTimeout> | undefined;
  private draftTimer: ReturnType<typeof setTimeout> | undefined;
  private resumeTimer: ReturnType<typeof setTimeout> | undefined;
  private draft: string | undefined;
  private marked = { delivered: 0, seen: 0 };

  /** lasts: what is kept outlasts the page, so that the chat comes along. */
  constructor(
    readonly key: string,
    readonly lasts = true,
    private readonly languages: readonly string[] = [],
  ) {
    this.tokenKey = `stoop.${key}.token`;
    this.outbox = new Outbox(
      `stoop.${key}.unsent.`,
      (message) => this.send(message),
      () => this.set({ unsent: this.unsent() }),
    );
    document.addEventListener("visibilitychange", () => this.mark());
  }

  /** What sends files, once there is a conversation. */
  get uploads(): Uploads | undefined {
    return this.sharing;
  }

  /** Lets files be sent; the code for it comes with the conversation. */
  sharesBy(Sharing: typeof Uploads): void {
    this.sharing ??= new Sharing(
      () => this.destination(),
      (uploads) => this.set({ uploads }),
      (event) => void this.heard(event),
    );
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): PanelState => this.state;

  now(): number {
    return this.live?.now() ?? Date.now();
  }

  /** Asks to be let in and connects. Tries again until the server answers. */
  async begin(): Promise<void> {
    this.set({ broken: "" });
    let admission: Admission;
    try {
      admission = await this.admission();
    } catch (error) {
      if (!mayRetry(error)) {
        this.set({ broken: wordsFor(error) });
        return;
      }
      this.set({ connection: "lost" });
      setTimeout(() => void this.begin(), againAfter);
      return;
    }
    keep(this.tokenKey, admission.token);
    this.set({
      widget: admission.widget,
      name: admission.name,
      email: admission.email,
      known: admission.known,
    });
    this.take({ chat: admission.chat, events: admission.events });
    const { chat } = this.state;
    if (this.wanted || !framed || (chat && chat.phase !== "ended") || this.unsent().length > 0)
      this.connect();
  }

  private async admission(): Promise<Admission> {
    const back = new URLSearchParams(location.search).get("back") ?? "";
    const admission = await admit(this.key, kept(this.tokenKey) ?? "", back, this.languages);
    // Where its words do not come, the usual ones of another language do.
    await speaksAs(admission.widget).catch(() => undefined);
    return admission;
  }

  /** Takes the widget as it is now; where that fails, what is on screen stays. */
  private async renew(): Promise<void> {
    try {
      const { token, widget } = await this.admission();
      keep(this.tokenKey, token);
      this.set({ widget });
    } catch {
      // The next change, or the next page, has it.
    }
  }

  /**
   * Connects and stays connected: a chat goes on, or is about to begin. Before
   * that the page around tells what there is to know.
   */
  connect(): void {
    this.wanted = true;
    const token = kept(this.tokenKey);
    if (this.live || this.coming || !this.state.widget || token === null) return;
    this.coming = true;
    import("../../shared/live")
      .then(({ Live, liveURL }) => {
        const live: Live<VisitorMessage> = new Live<VisitorMessage>({
          url: liveURL("/live/visitor"),
          token,
          onMessage: (message) => this.receive(message),
          onUp: () => void this.up(),
          onState: (connection) => this.set({ connection }),
          onRefused: () => {
            // Asks who it is now, as the same visitor: a token that is none any more gets
            // another one there, and who is banned is told so.
            live.close();
            this.live = undefined;
            void this.begin();
          },
        });
        this.live = live;
        live.connect();
      })
      .catch(() => {
        this.set({ connection: "lost" });
        setTimeout(() => this.connect(), againAfter);
      })
      .finally(() => (this.coming = false));
  }

  /** The page around learned whether the team is there. */
  onTeam(now: WidgetView["now"]): void {
    if (this.state.widget && !this.live) this.set({ widget: { ...this.state.widget, now } });
  }

  /** The page around learned that the widget was changed. */
  onWidget(): void {
    if (this.state.widget && !this.live) void this.renew();
  }

  /** Starts a chat with a first question, or leaves a message. */
  open(draft: StartDraft, message: boolean): void {
    const { name, email, phone, answers } = draft;
    const speaks = this.state.widget?.language;
    const extra: Record<string, unknown> = { name, email, phone, answers, speaks };
    if (message) extra.message = true;
    else if (this.state.invitation) extra.invitationId = this.state.invitation.id;
    if (this.page) Object.assign(extra, { pageUrl: this.page.url, pageTitle: this.page.title });
    const told = { name, email, phone: phone ?? "", ...answers };
    const known = new Set(this.state.known);
    for (const [field, answer] of Object.entries(told)) if (answer) known.add(field);
    this.set({ starting: false, chat: undefined, log: emptyLog, name, email, known: [...known], wrong: {} });
    this.marked = { delivered: 0, seen: 0 };
    this.outbox.add("", draft.text, extra);
    this.connect();
  }

  /** Leaves a message instead of waiting on. Throws a ProblemError when something is missing. */
  async leaveInstead(draft: StartDraft): Promise<void> {
    const { name, email, phone, text } = draft;
    if (!this.live) throw new LostError();
    const call = { clientId: uuid(), name, email, phone, text };
    this.take(await this.live.call<Opened>("message", call));
  }

  /** Adds words to the chat. */
  say(text: string): void {
    clearTimeout(this.draftTimer);
    this.draftTimer = undefined;
    this.draft = undefined;
    this.outbox.add(this.state.chat?.id ?? "", text);
  }

  /** Puts a message that the server refused back where the visitor writes next. */
  writeAnew(clientId: string, problem?: Problem): void {
    const wrong = wrongFields(problem);
    const words = this.outbox.discard(clientId);
    const { chat, name, email } = this.state;
    if (chat && chat.phase !== "ended") {
      keepInFront(draftKey(this.key), words);
    } else {
      const draft = keptJSON<StartDraft>(startKey(this.key), { name, email, text: "" });
      keepJSON(startKey(this.key), { ...draft, text: draft.text ? `${words}\n${draft.text}` : words });
      // What was not accepted is not known of them yet: it is asked for again.
      this.set({ starting: true, wrong, known: this.state.known.filter((name) => !(name in wrong)) });
    }
    this.set({ refills: this.state.refills + 1 });
  }

  /** Lets the team see what is being typed. */
  types(text: string): void {
    this.draft = text;
    if (this.draftTimer || !this.state.widget?.draftsSeen) return;
    this.draftTimer = setTimeout(() => {
      this.draftTimer = undefined;
      if (this.draft !== undefined && this.state.chat?.phase === "active") {
        // A draft that gets lost is followed by the next one.
        this.live?.call("draft", { chatId: this.state.chat.id, text: this.draft }).catch(() => undefined);
      }
    }, draftEvery);
  }

  /**
   * Corrects or withdraws one's own words, says that a file is not wanted, answers a page that
   * is offered, asks for a person in the helper's place, or goes on by another way. Throws when it
   * is too late.
   */
  async change(
    what:
      "correct" | "withdraw" | "refuse" | "use-card" | "person" | "page" | "along" | "answer-along" | Going,
    number: number,
    more?: object,
  ): Promise<unknown> {
    if (!this.live) throw new LostError();
    return this.live.call(what, { chatId: this.state.chat?.id, number, ...more });
  }

  /** Ends the chat. Throws when the server was not reached. */
  async end(): Promise<void> {
    if (this.state.chat) await this.live?.call("end", { chatId: this.state.chat.id });
  }

  /** Shows the form for another chat. */
  another(): void {
    this.set({ starting: true, finding: false, mustLeave: undefined });
  }

  /** Shows what a visitor can find by themselves; what they have typed stays. */
  find(): void {
    this.set({ starting: false, finding: true });
  }

  /** The visitor said yes to an invitation: they answer it, and no form stands between. */
  onInvited(invitation: Invitation): void {
    this.set({ invitation });
    this.connect();
  }

  /** Takes note of the page around the panel. */
  onPage(page: Page): void {
    // Another page may be another department's.
    const another = this.page?.url !== page.url;
    this.page = page;
    if (another) this.set({ mustLeave: undefined });
  }

  /** Takes note that the visitor sees the panel, or does not. */
  onShown(shown: boolean, takes = false): void {
    this.shown = shown;
    this.takes = takes;
    this.mark();
  }

  /** How many of the team's messages the visitor has not seen. */
  unread(): number {
    const seen = Math.max(this.state.chat?.byVisitor.seen ?? 0, this.marked.seen);
    return this.state.log.events.filter(
      (e) => (e.kind === "said" || e.kind === "shared") && e.side === "team" && e.number > seen,
    ).length;
  }

  private unsent(): Unsent[] {
    return [...this.outbox.list(""), ...this.outbox.list(this.state.chat?.id ?? "-")].sort(
      (a, b) => a.at - b.at,
    );
  }

  private async up(): Promise<void> {
    await this.resume();
    this.outbox.wake();
  }

  private async resume(): Promise<void> {
    clearTimeout(this.resumeTimer);
    try {
      const asked = { chatId: this.state.chat?.id ?? "", after: this.state.log.last };
      const resumed = await this.live?.call<Resumed>("resume", asked);
      if (resumed) this.take(resumed);
    } catch (error) {
      // When the connection went again, the next one resumes; while it stands, nothing else does.
      if (mayRetry(error) && this.state.connection === "live")
        this.resumeTimer = setTimeout(() => void this.resume(), againAfter);
    }
  }

  private take(resumed: Resumed): void {
    const chat = resumed.chat;
    if (!chat) return;
    const same = chat.id === this.state.chat?.id;
    if (!same) this.marked = { delivered: 0, seen: 0 };
    const { log } = extend(same ? this.state.log : emptyLog, resumed.events);
    const starting = same && this.state.starting;
    this.set({ chat: newer(this.state.chat, chat), log, starting, invitation: undefined });
    this.set({ unsent: this.unsent() });
    // More than was asked for at once, or said while it was on its way.
    const told = this.state.chat?.last ?? 0;
    if (log.last < told && (resumed.events.length > 0 || chat.last < told)) void this.resume();
    this.mark();
    if (same) this.remind(chat);
  }

  /** A server that died may have forgotten the last moment of receipts: they are told again. */
  private remind({ id, byVisitor }: VisitorChatView): void {
    const mine = this.state.chat?.byVisitor;
    if (!mine) return;
    const [what, upTo] = byVisitor.seen < mine.seen ? ["seen", mine.seen] : ["delivered", mine.delivered];
    if (byVisitor.seen < mine.seen || byVisitor.delivered < mine.delivered)
      this.live?.call(what, { chatId: id, upTo }).catch(() => undefined); // told with the next words
  }

  private receive(message: VisitorMessage): void {
    switch (message.type) {
      case "chat": {
        const { chat, events } = message;
        if (chat.id !== this.state.chat?.id) {
          // Another tab of this browser started a chat.
          if (chat.phase !== "ended") void this.resume();
          return;
        }
        const { log, gap } = extend(this.state.log, events);
        const spoke = events.some((e) => (e.kind === "said" || e.kind === "shared") && e.side === "team");
        // The site's own scripts may want to know.
        for (const e of events)
          if (e.kind === "said" && e.side === "team") tellHost({ kind: "said", text: e.text, from: e.name });
        this.set({ chat: newer(this.state.chat, chat), log, typing: spoke ? "" : this.state.typing });
        if (gap) void this.resume();
        this.mark();
        return;
      }
      case "marks":
        if (this.state.chat?.id === message.chatId)
          this.set({ chat: comeFurther(this.state.chat, message, "byVisitor") });
        return;
      case "typing":
        clearTimeout(this.typingTimer);
        this.set({ typing: message.typing && message.chatId === this.state.chat?.id ? message.name : "" });
        this.typingTimer = setTimeout(() => this.set({ typing: "" }), typingFor);
        return;
      case "state":
        if (this.state.widget) this.set({ widget: { ...this.state.widget, now: message } });
        return;
      case "widget":
        // Asked for anew, in the visitor's language; not by all panels at once.
        setTimeout(() => void this.renew(), Math.random() * againAfter);
        return;
      case "wait":
        if (this.state.chat?.id === message.chatId)
          this.set({ chat: { ...this.state.chat, wait: message.wait } });
        return;
      default:
        this.wishes?.(message);
    }
  }

  private async send(message: Unsent): Promise<void> {
    if (!this.live) throw new LostError();
    // Words written before the chat began may find it begun by now.
    if (message.chatId === "") {
      const { message: asMessage, ...extra } = message.extra ?? {};
      const opening = { clientId: message.clientId, text: message.text, ...extra };
      try {
        this.take(await this.live.call<Opened>(asMessage ? "message" : "open", opening));
      } catch (error) {
        if (error instanceof ProblemError) this.backToForm(message.clientId, error.problem);
        throw error;
      }
      return;
    }
    const { chatId, clientId, text } = message;
    const said = await this.live.call<{ event: EventView }>("say", { chatId, clientId, text });
    if (chatId !== this.state.chat?.id) return;
    // Until it stands in the log it stands there as unsent.
    await this.heard(said.event);
  }

  /** An event of mine stands in the log, when what came in between does. */
  private async heard(event: EventView): Promise<void> {
    const { log, gap } = extend(this.state.log, [event]);
    this.set({ log });
    if (gap) await this.resume();
  }

  private destination(): Destination | undefined {
    const { chat, widget } = this.state;
    if (!chat) return undefined;
    const url = `/widget/${encodeURIComponent(this.key)}/chats/${chat.id}/files`;
    return { url, token: kept(this.tokenKey) ?? "", limits: widget?.files };
  }

  /** Gives a first question back to the form when it cannot be taken as it is. */
  private backToForm(clientId: string, problem: Problem): void {
    if (problem.code !== "closed" && problem.code !== "bad-fields") return;
    if (problem.code === "closed") this.set({ mustLeave: { opensAt: problem.opensAt } });
    // After the outbox has taken note of the refusal.
    setTimeout(() => this.writeAnew(clientId, problem));
  }

  /** Tells the team how far their words have come. */
  private mark(): void {
    const { chat, log } = this.state;
    if (!chat || !this.live) return;
    const last =
      log.events.findLast((e) => (e.kind === "said" || e.kind === "shared") && e.side === "team")?.number ??
      0;
    const seeing = this.shown && document.visibilityState === "visible";
    const had = seeing
      ? Math.max(chat.byVisitor.seen, this.marked.seen)
      : Math.max(chat.byVisitor.delivered, this.marked.delivered);
    if (last <= had) return;
    const before = this.marked;
    this.marked = seeing ? { delivered: last, seen: last } : { ...this.marked, delivered: last };
    this.live.call(seeing ? "seen" : "delivered", { chatId: chat.id, upTo: last }).catch((error: unknown) => {
      // Told again after the next connect.
      if (!(error instanceof ProblemError)) this.marked = before;
    });
    this.set({});
  }

  protected set(change: Partial<PanelState>): void {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}

/** A chat's view may arrive late: the one with the higher number is the truth. */
function newer(have: VisitorChatView | undefined, got: VisitorChatView): VisitorChatView {
  if (have?.id !== got.id) return got;
  return have.last > got.last ? withMarks(have, got) : withMarks(got, have);
}
