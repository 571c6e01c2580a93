import type { ChatView, EventView } from "../../shared/types";

/** Reports whether somebody may still correct or withdraw a message; the server says for how long. */
export function mayChange(event: EventView, meId: string, chat: ChatView, now: number): boolean {
  return (
    chat.phase === "active" &&
    (event.kind === "said" || event.kind === "shared") &&
    event.side === "team" &&
    event.by === meId &&
    event.changeableUntil !== undefined &&
    now < Date.parse(event.changeableUntil)
  );
}

/** Returns the address of a message, for colleagues. */
export function linkTo(chatId: string, number: number): string {
  return `${location.origin}/transcripts/${chatId}?at=${number}`;
}
