import { withMarks } from "../../../shared/log";
import type { ChatView, OperatorView, PlaceView } from "../../../shared/types";
import type { Asking } from "./asking";
import { isMine } from "./lists";
import type { Screen } from "./screen";
import { membership, put, without, type Stores } from "./stores";

/** The chats that are on the Desk, each as it was heard of last. */
export class Chats {
  /** What happens while the whole Desk is being asked for. */
  asking: Asking | undefined;

  constructor(
    private readonly stores: Stores,
    private readonly screen: Screen,
  ) {}

  get me(): OperatorView {
    return this.stores.team.getState().me;
  }

  /** A chat of the Desk. */
  get(id: string): ChatView | undefined {
    return this.stores.chats.getState().chats.get(id);
  }

  /** Reports whether a chat is with me: mine, or one to which a colleague added me. */
  isMine(chat: ChatView): boolean {
    return isMine(chat, this.me);
  }

  /** A chat's view may arrive late: the one with the higher number is the truth. */
  put(chat: ChatView): void {
    const have = this.get(chat.id);
    this.asking?.moved.add(chat.id);
    if (have && have.last > chat.last) return;
    this.stores.chats.setState(({ chats }) => ({ chats: put(chats, chat.id, withMarks(chat, have)) }));
  }

  /** Takes a chat off the Desk that is not mine; what it is now may be given. */
  drop(id: string, now?: ChatView): void {
    const had = this.get(id);
    // Seen to be another's: whatever says less than that is older.
    const last = now?.last ?? (had?.last ?? 0) + 1;
    this.asking?.gone.set(id, Math.max(last, this.asking.gone.get(id) ?? 0));
    if (!had || this.isMine(now ?? had) || this.stores.chats.getState().watched.has(id)) return;
    this.screen.lanes.close(id);
    this.stores.chats.setState(({ chats }) => ({ chats: without(chats, id) }));
    this.screen.turnFrom(id);
  }

  /** Takes a chat off the Desk with all that was read of it. */
  remove(id: string): void {
    this.screen.lanes.close(id);
    this.stores.chats.setState(({ chats }) => ({ chats: without(chats, id) }));
    this.forgetLog(id);
  }

  /** Forgets what was read of a chat whose lane goes. */
  forgetLog(id: string): void {
    this.stores.scripts.setState(({ logs }) => ({ logs: without(logs, id) }));
    this.screen.turnFrom(id);
  }

  /** Takes note of whether I read a chat along. */
  watch(id: string, on: boolean): void {
    this.stores.chats.setState(({ watched }) => ({ watched: membership(watched, id, on) }));
  }

  /** Two messages about a visitor may overtake each other: the page heard of last is the true one. */
  place(got: PlaceView): void {
    this.stores.places.setState(({ places }) => ({
      places: put(places, got.visitorId, later(places.get(got.visitorId), got)),
    }));
  }

  /** Takes in where visitors are, as it was read: what was heard meanwhile may be later. */
  allPlaces(read: PlaceView[]): void {
    this.stores.places.setState(({ places }) => ({
      places: new Map(read.map((p) => [p.visitorId, later(places.get(p.visitorId), p)] as const)),
    }));
  }
}

function later(have: PlaceView | undefined, got: PlaceView): PlaceView {
  const late = have && Date.parse(have.seenAt) > Date.parse(got.seenAt);
  return late ? { ...have, here: got.here } : got;
}
