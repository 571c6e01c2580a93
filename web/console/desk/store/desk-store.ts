import { api, ask } from "../../../shared/api";
import { Live, liveURL } from "../../../shared/live";
import { ProblemError } from "../../../shared/problem";
import type { AlongPart, OperatorView, TeamMessage, Wish } from "../../../shared/types";
import { Notices, type Sound } from "../../notices/notices";
import { Acts } from "./acts";
import { Announcing } from "./announcing";
import { Chats } from "./chats";
import { Intake, type Moved, type TalkMessage } from "./intake";
import { calls, mine, offers, rings, waiting } from "./lists";
import { Looks } from "./looks";
import { Preferring } from "./preferring";
import { Screen } from "./screen";
import { Scripts } from "./scripts";
import { makeStores, type Stores } from "./stores";
import { Uploads } from "./uploads";
import { isLaneWindow } from "./windows";
import { Words } from "./words";

/** What a Desk tells the page that it is on. */
export interface Page {
  /** The session has ended. */
  signedOut: () => void;
  /** Says something to the operator. */
  say: (words: string) => void;
  /** What other parts of the console show has moved on the server. */
  moved: (what: Moved) => void;
}

/** Holds an operator's Desk and keeps it true. One for each tab. */
export class DeskStore {
  readonly stores: Stores;
  /** What is on screen, and what turns it. */
  readonly screen: Screen;
  /** What I do with chats. */
  readonly acts: Acts;
  /** What I write. */
  readonly words: Words;
  /** Files on their way. */
  readonly uploads: Uploads;
  readonly scripts: Scripts;
  readonly preferring: Preferring;
  /** Who is on the sites. */
  readonly looks: Looks;
  private readonly chats: Chats;
  private readonly intake: Intake;
  private readonly live: Live<TeamMessage>;
  private readonly notices = new Notices();
  private readonly alongListeners = new Set<(part: AlongPart) => void>();
  private readonly talkListeners = new Set<(message: TalkMessage) => void>();

  constructor(
    me: OperatorView,
    private readonly page: Page,
  ) {
    const stores = makeStores(me);
    this.stores = stores;
    const live = () => this.live;
    this.screen = new Screen(
      stores,
      {
        turnedTo: (id) => {
          this.acts.pickUp(id);
          this.scripts.look(id);
        },
        seen: (id) => this.scripts.mark(id),
      },
      page.say,
    );
    this.chats = new Chats(stores, this.screen);
    this.scripts = new Scripts(stores, this.chats, this.screen, live);
    this.words = new Words(stores, this.screen, this.scripts, live);
    this.acts = new Acts(stores, this.chats, this.screen, this.scripts, page.say);
    this.uploads = new Uploads(stores, (id, event) => {
      if (this.scripts.has(id)) void this.scripts.extend(id, [event]);
    });
    this.preferring = new Preferring(stores, (preferences) => this.notices.prefer(preferences));
    this.looks = new Looks(live);
    const announcing = new Announcing(stores, this.chats, this.screen, this.notices, page.say);
    const talked = (message: TalkMessage) => this.talked(message);
    this.intake = new Intake(
      stores,
      this.screen,
      this.chats,
      this.scripts,
      this.words,
      this.preferring,
      announcing,
      {
        moved: page.moved,
        talked,
        along: (part) => this.alongListeners.forEach((listener) => listener(part)),
        onSite: (message) => this.looks.receive(message),
        signedOut: page.signedOut,
      },
      () => this.now(),
    );
    this.live = new Live<TeamMessage>({
      url: liveURL("/live/team"),
      onMessage: (message) => this.intake.receive(message),
      onUp: () => {
        this.intake.connected();
        this.looks.connected();
      },
      onState: (connection) => {
        stores.team.setState({ connection });
        if (connection === "lost") void this.checkSession();
      },
      onRefused: page.signedOut,
    });
  }

  /** Hears parts of a visitor's page that I look at; returns how to stop. */
  onAlong(listener: (part: AlongPart) => void): () => void {
    this.alongListeners.add(listener);
    return () => this.alongListeners.delete(listener);
  }

  /** Asks something of the page that I look at. */
  async wish(wish: Omit<Wish, "type" | "what"> & { what: string }): Promise<void> {
    await this.live.call("along", wish);
  }

  /** Connects; returns how to stop. */
  start(): () => void {
    this.scripts.begin();
    this.live.connect();
    const onFocus = () => this.screen.lookAgain();
    addEventListener("focus", onFocus);
    document.addEventListener("visibilitychange", onFocus);
    const timer = setInterval(() => this.tick(), 1000);
    return () => {
      this.live.close();
      removeEventListener("focus", onFocus);
      document.removeEventListener("visibilitychange", onFocus);
      clearInterval(timer);
      this.intake.close();
      this.scripts.close();
      this.screen.close();
      this.notices.close();
    };
  }

  /** Returns the server's time, in milliseconds since 1970. */
  now(): number {
    return this.live.now();
  }

  /** Ends this tab's use of the session. */
  signOut(): void {
    this.live.close();
    this.page.signedOut();
  }

  /** Calls listener for each word of the team talk. */
  onTalk(listener: (message: TalkMessage) => void): () => void {
    this.talkListeners.add(listener);
    return () => this.talkListeners.delete(listener);
  }

  /** Makes a sound as it would be heard. */
  testSound(kind: Sound): void {
    this.notices.test(kind);
  }

  /** Calls a lead, by sound and on the desktop. */
  call(title: string, body: string, tag: string): void {
    this.notices.called(title, body, tag);
  }

  private talked(message: TalkMessage): void {
    for (const listener of this.talkListeners) listener(message);
    if (message.by !== this.chats.me.id) this.notices.talked(message);
  }

  private async checkSession(): Promise<void> {
    try {
      await ask(api.GET("/api/me"));
    } catch (error) {
      if (error instanceof ProblemError && error.problem.status === 401) this.page.signedOut();
    }
  }

  private tick(): void {
    if (isLaneWindow()) return; // its title is the visitor's name
    const { chats } = this.stores.chats.getState();
    const { me, departments } = this.stores.team.getState();
    const { numbers } = this.stores.windows.getState().lanes;
    const waits = [...offers(chats, me), ...waiting(chats, me), ...calls(chats, me)];
    const unseen = mine(chats, me, numbers)
      .filter((c) => c.phase === "active" && !this.screen.looksAt(c.id))
      .reduce((n, c) => n + c.unseen, 0);
    this.notices.title(waits, unseen, this.now());
    this.notices.stillWaits(waits.filter((c) => rings(c, me, departments)).length, Date.now());
  }
}
