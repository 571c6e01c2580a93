import { t } from "@lingui/core/macro";

/** Says why a chat was missed. */
export function missedWords(why: string): string {
  const words: Record<string, string> = {
    left: t`the visitor left while waiting`,
    ended: t`the visitor ended it while waiting`,
    "never-answered": t`taken, and never answered`,
    banned: t`the visitor was banned`,
    helper: t`the visitor left the helper, unanswered`,
  };
  return words[why] ?? why;
}
