import { i18n, type Messages } from "@lingui/core";

import { language, speak } from "../../shared/speak";

// Texts of the widget in the place of usual ones, and what those were.
let instead: Messages = {};
const usual: Messages = {};
let mine = false;

function put(next: Messages): void {
  const now = i18n.messages;
  const changed: Messages = { ...next };
  for (const id in instead) if (!(id in next)) changed[id] = usual[id] ?? "";
  for (const id in next) if (now[id] !== instead[id]) usual[id] = now[id] ?? "";
  instead = next;
  mine = true;
  i18n.load(language(), changed);
  mine = false;
}
// Parts that come later bring their usual texts; the widget's stay in their place.
i18n.on("change", () => {
  if (!mine) put(instead);
});

/** Speaks a language with its usual texts. */
export function sayUsual(wanted: string, messages: Messages): void {
  instead = {};
  speak(wanted, messages);
}

/** Puts texts, by their ids, in the place of the usual ones; what stands in braces is filled in. */
export function sayInstead(texts: Record<string, string>): void {
  const next: Messages = {};
  for (const id in texts)
    next[id] = texts[id]?.split(/\{(\w+)\}/).map((part, at) => (at % 2 ? [part] : part)) as Messages[string];
  put(next);
}
