// What is typed in a composer and not sent: kept in the browser for each chat,
// so that it outlasts a reload, a crash, and the lane being away.
import { keep, keepJSON, keptJSON } from "../../shared/storage";
import type { Suggestion } from "../../shared/types";

/** Where the draft of a chat is kept. */
export function draftKey(chatId: string): string {
  return `stoop.desk.draft.${chatId}`;
}

/** Where the note to the team is kept that is being written in a chat. */
export function noteKey(chatId: string): string {
  return `stoop.desk.note-draft.${chatId}`;
}

/** Where it is kept that a composer writes notes: "note" for one, "pinned" for all to come. */
export function modeKey(chatId: string): string {
  return `stoop.desk.mode.${chatId}`;
}

/** What the words of a draft were made of. */
export interface MadeOf {
  /** The canned response that was put in last, for counting its use. */
  canned?: string;
  /** Placeholders that had no value. */
  missing: string[];
}

const nothing: MadeOf = { missing: [] };

const madeKey = (chatId: string) => `stoop.desk.made.${chatId}`;

/** Returns what the draft of a chat was made of. */
export function madeOf(chatId: string): MadeOf {
  return keptJSON(madeKey(chatId), nothing);
}

/** Notes that a canned response was put into the draft of a chat. */
export function addMadeOf(chatId: string, suggestion: Suggestion): void {
  const missing = [...madeOf(chatId).missing, ...(suggestion.missing ?? [])];
  keepJSON(madeKey(chatId), { canned: suggestion.id, missing });
}

/** Forgets it, when nothing is left of the words. */
export function forgetMadeOf(chatId: string): void {
  keep(madeKey(chatId), null);
}
