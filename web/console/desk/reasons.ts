import { plural, t } from "@lingui/core/macro";
import { listed } from "../../shared/format";
import type { EventView, ReasonView } from "../../shared/types";

/** Returns one of a reason's values by its name; empty when it has none. */
type Values = (name: string) => string;

const chats = (n: number) => plural(n, { one: "# chat", other: "# chats" });

/** Words for each reason that routing gives. The first of a decision begins a sentence. */
const words: Record<string, (v: Values) => string> = {
  rule: (v) => t`rule “${v("rule")}”`,
  "form-department": (v) => t`the visitor chose ${v("department")}`,
  default: () => t`default department`,
  "rule-operator": (v) => t`the rule prefers ${v("operator")}`,
  "account-owner": (v) => t`${v("operator")} looks after this customer`,
  "last-operator": (v) => t`${v("operator")} answered last time`,
  "operator-away": (v) => t`${v("operator")} is not available`,
  "operator-full": (v) => t`${v("operator")} holds ${v("load")} of ${v("capacity")} chats`,
  priority: (v) => t`it has priority ${v("priority")}`,
  "department-gone": (v) => t`rule “${v("rule")}” names a department that no longer exists`,
  "operator-gone": (v) => t`rule “${v("rule")}” names somebody who has left the team`,
  fewest: (v) => t`${v("operator")} had the fewest chats, ${chats(Number(v("load")))}`,
  turn: (v) => t`it was ${v("operator")}’s turn`,
  share: (v) => t`${v("operator")} had the most room, ${v("load")} of ${v("capacity")} chats`,
  language: (v) => t`${v("operator")} speaks the visitor’s language (${v("language")})`,
  "only-one": (v) => t`${v("operator")} was the only one left to ask`,
  backup: () => t`no primary member could take it`,
  overflow: (v) => t`${v("to")} helps ${v("from")}`,
  "overflow-seconds": (v) => t`it had waited ${v("seconds")} seconds`,
  "overflow-length": (v) => t`${v("waiting")} were waiting, more than ${v("length")}`,
  "overflow-closed": (v) => t`${v("department")} is closed`,
  "overflow-nobody": (v) => t`nobody in ${v("department")} is logged in`,
  "nobody-has-room": (v) => t`nobody in ${v("department")} has room`,
  "nobody-available": (v) => t`nobody in ${v("department")} is available`,
  closed: (v) => t`${v("department")} is closed`,
  writing: (v) => t`${v("operator")} wrote first`,
  invitation: (v) => t`${v("operator")} invited the visitor`,
  pick: (v) => t`in ${v("department")} operators take chats themselves`,
};

/** Puts reasons into one part of a sentence. */
export function reasonWords(reasons: readonly ReasonView[]): string {
  const parts = reasons.map((r) => words[r.code]?.((name) => r.values?.[name] ?? "") ?? r.code);
  return listed(parts);
}

/** Begins a sentence and ends it. */
export function sentence(text: string): string {
  return text ? `${text.charAt(0).toUpperCase()}${text.slice(1)}.` : "";
}

function sentTo(to: string, why: string): string {
  return to ? t`Sent to ${to} (${why})` : t`Sent to the team (${why})`;
}

/** Puts what was done and why it was done into one sentence. */
function becauseWords([done, ...why]: readonly ReasonView[]): string {
  if (!done) return "";
  const what = reasonWords([done]);
  const because = reasonWords(why);
  return because ? t`${what} because ${because}` : what;
}

/** Says in a sentence or two why a chat is where it is: the department, and the person. */
export function whyHere(log: readonly EventView[]): string[] {
  const routed = log.findLast((e) => e.kind === "routed");
  const taken = log.findLast((e) => e.kind === "taken");
  const offered = log.findLast(
    (e) => e.kind === "offered" && (!taken || e.number < taken.number) && e.to === (taken?.name ?? e.to),
  );
  const overflowed = log.findLast((e) => e.kind === "overflowed");
  const sentences: string[] = [];
  if (routed) sentences.push(sentence(sentTo(routed.to ?? "", reasonWords(routed.reasons ?? []))));
  if (overflowed) sentences.push(sentence(becauseWords(overflowed.reasons ?? [])));
  if (taken?.how === "assigned")
    sentences.push(sentence(t`Assigned to ${taken.name} (${reasonWords(taken.reasons ?? [])})`));
  else if (offered?.reasons?.length)
    sentences.push(sentence(t`Offered to ${offered.to ?? ""} (${reasonWords(offered.reasons)})`));
  else if (taken) sentences.push(sentence(t`${taken.name} took it`));
  return sentences;
}
