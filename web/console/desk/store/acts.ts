import { t } from "@lingui/core/macro";
import { api, ask } from "../../../shared/api";
import { ProblemError, wordsFor } from "../../../shared/problem";
import { uuid } from "../../../shared/uuid";
import type { SaleView, TranslationView } from "../../../shared/types";
import type { Chats } from "./chats";
import type { Screen } from "./screen";
import type { Scripts } from "./scripts";
import { membership, type Stores } from "./stores";

/** What I do with chats. Where nothing else is said, what goes wrong is thrown. */
export class Acts {
  constructor(
    private readonly stores: Stores,
    private readonly chats: Chats,
    private readonly screen: Screen,
    private readonly scripts: Scripts,
    private readonly say: (words: string) => void,
  ) {}

  async setAvailable(available: boolean): Promise<void> {
    const now = await ask(api.PUT("/api/me/availability", { body: { available } }));
    this.stores.team.setState(({ me }) => ({ me: { ...me, available: now.available }, setAwayAfter: 0 }));
  }

  /** Takes note that I have read why I am away. */
  readAway(): void {
    this.stores.team.setState({ setAwayAfter: 0 });
  }

  /** Takes a chat and opens its lane. Says so when a colleague was faster; asks when it is too many. */
  async take(id: string, anyway = false): Promise<void> {
    if (this.stores.chats.getState().taking.has(id)) return;
    this.taking(id, true);
    this.stores.chats.setState({ tooMany: undefined });
    try {
      const params = { path: { id }, query: { anyway } };
      this.chats.put(await ask(api.POST("/api/chats/{id}/take", { params })));
      this.screen.writeTo(id);
    } catch (error) {
      this.refused(id, error);
    } finally {
      this.taking(id, false);
    }
  }

  private taking(id: string, is: boolean): void {
    this.stores.chats.setState(({ taking }) => ({ taking: membership(taking, id, is) }));
  }

  private refused(id: string, error: unknown): void {
    const problem = error instanceof ProblemError ? error.problem : undefined;
    const who = this.stores.team.getState().operators.find((o) => o.id === problem?.ownerId)?.name;
    switch (problem?.code) {
      case "over-capacity": {
        const { load = 0, capacity = 0 } = problem;
        this.stores.chats.setState({ tooMany: { chatId: id, load, capacity } });
        return;
      }
      case "chat-taken":
        this.chats.drop(id);
        this.say(t`${who ?? t`A colleague`} took this chat a moment before you.`);
        return;
      case "chat-ended":
        this.chats.drop(id);
        this.say(t`The visitor ended this chat before you took it.`);
        return;
      case "offered":
        this.say(
          t`${who ?? t`A colleague`} is being asked right now. The chat comes back if they do not take it.`,
        );
        return;
      default:
        this.say(wordsFor(error));
    }
  }

  /** Leaves a chat that would be too many where it is. */
  leaveIt(): void {
    this.stores.chats.setState({ tooMany: undefined });
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
    this.chats.put(await ask(api.POST("/api/chats/{id}/hand-on", { params: { path: { id } }, body: to })));
  }

  /** Withdraws what I have begun to hand on. */
  async takeBack(id: string): Promise<void> {
    this.chats.put(await ask(api.POST("/api/chats/{id}/take-back", { params: { path: { id } } })));
  }

  /** Returns a chat to its queue. */
  async putBack(id: string, note: string): Promise<void> {
    const params = { path: { id } };
    this.chats.put(await ask(api.POST("/api/chats/{id}/put-back", { params, body: { note } })));
    this.screen.lanes.close(id);
    this.screen.turnFrom(id);
  }

  /** Lets a colleague speak in a chat beside me. */
  async addColleague(id: string, operator: string): Promise<void> {
    const params = { path: { id, operator } };
    this.chats.put(await ask(api.PUT("/api/chats/{id}/colleagues/{operator}", { params })));
  }

  /** Takes a colleague, or myself, out of a chat again. */
  async removeColleague(id: string, operator: string): Promise<void> {
    await ask(api.DELETE("/api/chats/{id}/colleagues/{operator}", { params: { path: { id, operator } } }));
    if (operator === this.chats.me.id) this.close(id);
  }

  /** Takes an ended chat off the Desk. */
  close(id: string): void {
    const chat = this.chats.get(id);
    if (
      chat?.phase === "ended" &&
      chat.wrapUntil &&
      !chat.needsOutcome &&
      chat.ownerId === this.chats.me.id
    ) {
      // The wrap-up is done: there is room for the next chat.
      ask(api.POST("/api/chats/{id}/wrap-up", { params: { path: { id } } })).catch((error: unknown) =>
        this.say(wordsFor(error)),
      );
    }
    this.chats.remove(id);
    this.screen.rest();
  }

  /** Takes a lane away; the chat stays in the line. */
  putAway(id: string): void {
    if (this.stores.chats.getState().watched.has(id)) {
      this.stopWatching(id).catch((error: unknown) => this.say(wordsFor(error)));
      return;
    }
    this.screen.lanes.putAway(id);
    this.screen.turnFrom(id);
  }

  async end(id: string): Promise<void> {
    this.chats.put(await ask(api.POST("/api/chats/{id}/end", { params: { path: { id } } })));
  }

  /** Replaces my own words, within a minute. */
  async correct(id: string, number: number, text: string, translation?: TranslationView): Promise<void> {
    const path = { id, number };
    const body = { text, ...(translation ? { translation } : {}) };
    await ask(api.PUT("/api/chats/{id}/events/{number}", { params: { path }, body }));
  }

  /** Takes my own words or file back, within a minute. */
  async withdraw(id: string, number: number): Promise<void> {
    await ask(api.DELETE("/api/chats/{id}/events/{number}", { params: { path: { id, number } } }));
  }

  /** Notes something that only the team sees. */
  async note(id: string, text: string): Promise<void> {
    const body = { clientId: uuid(), text };
    this.chats.put(await ask(api.POST("/api/chats/{id}/notes", { params: { path: { id } }, body })));
  }

  /** Tells a chat's owner something that the visitor does not see. */
  async whisper(id: string, text: string): Promise<void> {
    const body = { clientId: uuid(), text };
    this.chats.put(await ask(api.POST("/api/chats/{id}/whispers", { params: { path: { id } }, body })));
  }

  async tag(id: string, tag: string, on: boolean): Promise<void> {
    const params = { path: { id } };
    this.chats.put(await ask(api.POST("/api/chats/{id}/tags", { params, body: { tag, on } })));
  }

  async summarise(id: string, text: string): Promise<void> {
    const params = { path: { id } };
    this.chats.put(await ask(api.PUT("/api/chats/{id}/summary", { params, body: { text } })));
  }

  /** Puts down how a chat came out. Only what is given changes: outcome and sale are two answers. */
  async conclude(
    id: string,
    body: { outcome: string } | { sale: SaleView } | { noSale: true },
  ): Promise<void> {
    this.chats.put(await ask(api.PUT("/api/chats/{id}/outcome", { params: { path: { id } }, body })));
  }

  async markUnread(id: string, unread: boolean): Promise<void> {
    const params = { path: { id } };
    this.chats.put(await ask(api.PUT("/api/chats/{id}/unread", { params, body: { unread } })));
  }

  /** Coming back to a chat that was marked unread takes the mark away. */
  pickUp(id: string): void {
    if (this.chats.get(id)?.unread) {
      this.markUnread(id, false).catch((error: unknown) => this.say(wordsFor(error)));
    }
  }

  /** Asks a department for help. */
  async callTeam(id: string, departmentId: string, text: string): Promise<void> {
    const body = { departmentId, text };
    this.chats.put(await ask(api.POST("/api/chats/{id}/call", { params: { path: { id } }, body })));
  }

  async endCall(id: string): Promise<void> {
    this.chats.put(await ask(api.DELETE("/api/chats/{id}/call", { params: { path: { id } } })));
  }

  /** Joins a chat that asks for help, or as a lead any. */
  async join(id: string): Promise<void> {
    this.chats.put(await ask(api.POST("/api/chats/{id}/join", { params: { path: { id } } })));
    this.chats.watch(id, false);
    this.screen.writeTo(id);
  }

  /** Becomes the owner of a colleague's chat. */
  async takeOver(id: string): Promise<void> {
    this.chats.put(await ask(api.POST("/api/chats/{id}/take-over", { params: { path: { id } } })));
    this.chats.watch(id, false);
    this.screen.writeTo(id);
  }

  /** Reads a chat along, unseen, in a lane. */
  async watch(id: string): Promise<void> {
    const params = { path: { id } };
    this.chats.put(await ask(api.PUT("/api/chats/{id}/watch", { params, body: { on: true } })));
    this.chats.watch(id, true);
    this.screen.writeTo(id); // what is typed next is a whisper, and gets lost nowhere
    await this.scripts.fetch(id);
  }

  /** Stops reading along. */
  async stopWatching(id: string): Promise<void> {
    this.chats.watch(id, false);
    this.screen.lanes.close(id);
    this.screen.turnFrom(id);
    await ask(api.PUT("/api/chats/{id}/watch", { params: { path: { id } }, body: { on: false } }));
  }

  /** Bans the visitor of a chat, or a network, and ends what is open from there. */
  async ban(order: { chatId?: string; network?: string; reason: string; hours: number }): Promise<void> {
    await ask(api.POST("/api/bans", { body: order }));
  }
}
