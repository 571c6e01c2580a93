import type { ChatView } from "../../../shared/types";

/** What happened while the Desk is being asked for. */
export interface Asking {
  /** It was wanted once more. */
  again: boolean;
  moved: Set<string>;
  /** The number from which on a chat is somebody else's. */
  gone: Map<string, number>;
}

/**
 * Brings the server's answer together with what came while it was on its way: of
 * each chat the one with the higher number is the truth.
 */
export function merged(
  answered: ChatView[],
  had: ReadonlyMap<string, ChatView>,
  asking: Asking,
  hasLane: (id: string) => boolean,
): Map<string, ChatView> {
  const chats = new Map<string, ChatView>();
  for (const chat of answered) {
    if ((asking.gone.get(chat.id) ?? 0) > chat.last) continue;
    const have = had.get(chat.id);
    chats.set(chat.id, have && have.last > chat.last ? have : chat);
  }
  for (const [id, chat] of had) {
    // What came meanwhile is not in the answer; lanes of chats that ended stay until they are closed.
    if (!chats.has(id) && (asking.moved.has(id) || hasLane(id))) chats.set(id, chat);
  }
  return chats;
}
