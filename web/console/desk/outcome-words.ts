import { money } from "../../shared/money";
import type { ChatView } from "../../shared/types";

/** Says a chat's outcome in a few words. */
export function outcomeWords(chat: ChatView): string {
  return [chat.outcome ?? "", chat.sale ? money(chat.sale) : ""].filter(Boolean).join(", ");
}
