import type { ChatView, EventView, TranslationView } from "../../shared/types";

/**
 * Finds how the other side reads words, by their number: the team's as they went out, the visitor's
 * as they were translated last. Words that were corrected wait for a translation of their own.
 */
export function translationsOf(events: readonly EventView[]): Map<number, TranslationView> {
  const found = new Map<number, TranslationView>();
  for (const e of events) {
    if (e.kind === "said" && e.translation) found.set(e.number, e.translation);
    if (e.kind === "corrected" && e.upTo) {
      if (e.translation) found.set(e.upTo, e.translation);
      else found.delete(e.upTo);
    }
    if (e.kind === "translated" && e.upTo && e.translation?.text) found.set(e.upTo, e.translation);
  }
  return found;
}

/** Reports whether words of the visitor wait for their translation. */
export function owesTranslation(chat: ChatView, event: EventView): boolean {
  return chat.translating?.owed?.includes(event.number) ?? false;
}
