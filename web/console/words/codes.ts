// Words for what the server names by a code.
import { t } from "@lingui/core/macro";

import type { ChatView, OperatorView } from "../../shared/types";

/** How somebody stands. */
export function stateWords(state: OperatorView["state"]): string {
  return { available: t`available`, away: t`away`, call: t`within call`, offline: t`offline` }[state];
}

/** What somebody may do. */
export function roleWords(role: OperatorView["role"]): string {
  return { operator: t`operator`, lead: t`lead`, admin: t`admin` }[role];
}

/** How a chat ended. */
export function endingWords(ending: NonNullable<ChatView["ending"]>): string {
  return (
    { answered: t`answered`, missed: t`missed`, message: t`message`, helped: t`helped` }[ending] ?? ending
  );
}

/** How chats of a department reach its members. */
export function handOutWords(handOut: string): string {
  const words: Record<string, string> = {
    pick: t`operators pick chats`,
    offer: t`chats are offered`,
    assign: t`chats are assigned`,
  };
  return words[handOut] ?? handOut;
}

/** A rating in words. */
export function ratingWords(rating: number): string {
  return [t`Very poor`, t`Poor`, t`All right`, t`Good`, t`Very good`][rating - 1] ?? "";
}
