import { api, ask } from "../../../shared/api";
import type { Live } from "../../../shared/live";
import { emptyLog, extend } from "../../../shared/log";
import { LostError, mayRetry } from "../../../shared/problem";
import type { ChatView, EventView, Script, TeamMessage } from "../../../shared/types";
import type { Chats } from "./chats";
import { mayRead } from "./lists";
import type { Screen } from "./screen";
import { put, type Stores } from "./stores";

const againAfter = 1500; // milliseconds

/** What was said in the chats that I read, without gaps, and how far I have seen it. */
export class Scripts {
  private readonly fetching = new Map<string, Promise<void>>();
  private readonly marked = new Map<string, number>();
  private closed = false;

  constructor(
    private readonly stores: Stores,
    private readonly chats: Chats,
    private readonly screen: Screen,
    private readonly live: () => Live<TeamMessage>,
  ) {}

  /** Begins to ask, again after it was stopped. */
  begin(): void {
    this.closed = false;
  }

  /** Stops asking. */
  close(): void {
    this.closed = true;
  }

  /** Reports whether a chat is being read. */
  has(id: string): boolean {
    return this.stores.scripts.getState().logs.has(id);
  }

  /** Reads a chat that is not read yet. */
  look(id: string): void {
    if (!this.has(id)) void this.fetch(id);
  }

  /** Adds events that were told; what is missing in between is asked for. */
  async extend(id: string, events: EventView[]): Promise<void> {
    const { log, gap } = extend(this.stores.scripts.getState().logs.get(id) ?? emptyLog, events);
    this.stores.scripts.setState(({ logs }) => ({ logs: put(logs, id, log) }));
    if (gap) await this.fetch(id);
  }

  /** Asks for what follows the last number; once at a time for each chat. */
  fetch(id: string): Promise<void> {
    const running = this.fetching.get(id);
    if (running) return running;
    const work = this.load(id).finally(() => this.fetching.delete(id));
    this.fetching.set(id, work);
    return work;
  }

  private async load(id: string): Promise<void> {
    let script: Script;
    try {
      const after = this.stores.scripts.getState().logs.get(id)?.last ?? 0;
      script = await ask(api.GET("/api/chats/{id}", { params: { path: { id }, query: { after } } }));
    } catch (error) {
      if (!mayRetry(error)) {
        this.closeLane(id);
        return;
      }
      // The live connection may stand all the while: nothing else would ask again.
      await new Promise((done) => setTimeout(done, againAfter));
      return this.closed ? undefined : this.load(id);
    }
    if (this.closed) return;
    if (!mayRead(script.chat, this.chats.me, this.stores.chats.getState().watched)) {
      this.closeLane(id);
      return;
    }
    this.chats.put(script.chat);
    this.chats.place(script.place);
    const { log } = extend(this.stores.scripts.getState().logs.get(id) ?? emptyLog, script.events);
    this.stores.scripts.setState(({ logs }) => ({ logs: put(logs, id, log) }));
    // More than was asked for at once, or said while it was on its way.
    const told = this.chats.get(id)?.last ?? 0;
    if (log.last < told && (script.events.length > 0 || script.chat.last < told)) await this.load(id);
    this.mark(id);
  }

  /** What may not be read has no lane, and is not the one in use. */
  private closeLane(id: string): void {
    this.screen.lanes.close(id);
    this.screen.turnFrom(id);
  }

  /**
   * A server that died may have forgotten the last moment of receipts: what it says of
   * a chat of mine is compared with what I knew, and told again.
   */
  remind(answered: ChatView, had: ChatView | undefined): void {
    const seen = had?.byTeam.seen ?? 0;
    if (answered.ownerId !== this.chats.me.id || answered.byTeam.seen >= seen) return;
    this.live()
      .call("seen", { chatId: answered.id, upTo: seen })
      .catch(() => undefined); // told with the next words
  }

  /** Tells the visitor how far their words have come. */
  mark(id: string): void {
    const chat = this.chats.get(id);
    const log = this.stores.scripts.getState().logs.get(id);
    if (!chat || !log || chat.ownerId !== this.chats.me.id || !this.screen.looksAt(id)) return;
    const last =
      log.events.findLast((e) => (e.kind === "said" || e.kind === "shared") && e.side === "visitor")
        ?.number ?? 0;
    const before = this.marked.get(id) ?? 0;
    if (last <= Math.max(chat.byTeam.seen, before)) return;
    this.marked.set(id, last);
    this.live()
      .call("seen", { chatId: id, upTo: last })
      .catch((error: unknown) => {
        if (error instanceof LostError) this.marked.set(id, before); // told again after the next connect
      });
  }
}
