import type { EventView } from "./types";

/** The part of a chat's log that a browser has: numbers 1 to last, no gaps. */
export interface Log {
  events: EventView[];
  last: number;
}

export const emptyLog: Log = { events: [], last: 0 };

/**
 * Adds events to a log in the order of their numbers. What is there already
 * changes nothing. When events are missing in between, gap is true and the rest
 * is left out: the reader must ask for what follows last.
 */
export function extend(log: Log, events: readonly EventView[]): { log: Log; gap: boolean } {
  const fresh = events.filter((e) => e.number > log.last).sort((a, b) => a.number - b.number);
  let last = log.last;
  const added: EventView[] = [];
  for (const event of fresh) {
    if (event.number === last) continue;
    if (event.number > last + 1) return { log: append(log, added, last), gap: true };
    added.push(event);
    last = event.number;
  }
  return { log: append(log, added, last), gap: false };
}

function append(log: Log, added: EventView[], last: number): Log {
  return added.length === 0 ? log : { events: [...log.events, ...added], last };
}

/** How far one side has received and seen the other side's words. */
interface Mark {
  delivered: number;
  seen: number;
}

/** How far the words of a chat have come, either way. */
export interface Marks {
  byVisitor: Mark;
  byTeam: Mark;
}

/**
 * Returns what was got with the higher of its marks and those had: they only
 * ever rise, and what tells of them may arrive late.
 */
export function withMarks<T extends Marks>(got: T, had: Marks | undefined): T {
  if (!had) return got;
  const higher = (a: Mark, b: Mark): Mark => ({
    delivered: Math.max(a.delivered, b.delivered),
    seen: Math.max(a.seen, b.seen),
  });
  return { ...got, byVisitor: higher(got.byVisitor, had.byVisitor), byTeam: higher(got.byTeam, had.byTeam) };
}

/**
 * Returns a chat whose words have come further, as its reader is told. What is
 * unread counts from the reader's own mark, so an older one says nothing of it.
 */
export function comeFurther<T extends Marks & { unseen: number }>(
  chat: T,
  moved: Marks & { unseen: number },
  reader: keyof Marks,
): T {
  const unseen = moved[reader].seen >= chat[reader].seen ? moved.unseen : chat.unseen;
  return { ...withMarks(chat, moved), unseen };
}

/** How far a message of one's own has come, in words. */
export type Receipt = "sent" | "waiting" | "delivered" | "seen";

/**
 * Returns how far a message has come. Mirrors Receipt of core/chat, for marks
 * that move while the page is open.
 */
export function receiptOf(
  number: number,
  reader: { delivered: number; seen: number },
  readerHere: boolean,
): Receipt {
  if (number <= reader.seen) return "seen";
  if (number <= reader.delivered) return "delivered";
  return readerHere ? "sent" : "waiting";
}
