import type { EventView, ReasonView } from "../../shared/types";

type Values = Record<string, string>;

const number = (v: Values, name: string) => Number(v[name] ?? 0);
const chats = (n: number) => (n === 1 ? "1 chat" : `${n} chats`);

/** Words for each reason that routing gives. The first of a decision begins a sentence. */
const words: Record<string, (v: Values) => string> = {
  rule: (v) => `rule “${v.rule}”`,
  "form-department": (v) => `the visitor chose ${v.department}`,
  default: () => "default department",
  "rule-operator": (v) => `the rule prefers ${v.operator}`,
  "account-owner": (v) => `${v.operator} looks after this customer`,
  "last-operator": (v) => `${v.operator} answered last time`,
  "operator-away": (v) => `${v.operator} is not available`,
  "operator-full": (v) => `${v.operator} holds ${v.load} of ${v.capacity} chats`,
  priority: (v) => `it has priority ${v.priority}`,
  "department-gone": (v) => `rule “${v.rule}” names a department that no longer exists`,
  "operator-gone": (v) => `rule “${v.rule}” names somebody who has left the team`,
  fewest: (v) => `${v.operator} had the fewest chats, ${chats(number(v, "load"))}`,
  turn: (v) => `it was ${v.operator}’s turn`,
  share: (v) => `${v.operator} had the most room, ${v.load} of ${v.capacity} chats`,
  language: (v) => `${v.operator} speaks the visitor’s language (${v.language})`,
  "only-one": (v) => `${v.operator} was the only one with room`,
  backup: () => "no primary member had room",
  overflow: (v) => `${v.to} helps ${v.from}`,
  "overflow-seconds": (v) => `it had waited ${v.seconds} seconds`,
  "overflow-length": (v) => `${v.waiting} were waiting, more than ${v.length}`,
  "overflow-closed": (v) => `${v.department} is closed`,
  "overflow-nobody": (v) => `nobody in ${v.department} is logged in`,
  "nobody-has-room": (v) => `nobody in ${v.department} has room`,
  "nobody-available": (v) => `nobody in ${v.department} is available`,
  closed: (v) => `${v.department} is closed`,
  pick: (v) => `in ${v.department} operators take chats themselves`,
};

/** Puts reasons into one part of a sentence. */
export function reasonWords(reasons: readonly ReasonView[]): string {
  const parts = reasons.map((r) => words[r.code]?.(r.values ?? {}) ?? r.code);
  const last = parts.pop() ?? "";
  return parts.length > 0 ? `${parts.join(", ")} and ${last}` : last;
}

/** Begins a sentence and ends it. */
export function sentence(text: string): string {
  return text ? `${text.charAt(0).toUpperCase()}${text.slice(1)}.` : "";
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
  if (routed)
    sentences.push(sentence(`Sent to ${routed.to || "the team"} (${reasonWords(routed.reasons ?? [])})`));
  if (overflowed)
    sentences.push(sentence(reasonWords(overflowed.reasons ?? []).replace(" and ", " because ")));
  if (taken?.how === "assigned")
    sentences.push(sentence(`Assigned to ${taken.name} (${reasonWords(taken.reasons ?? [])})`));
  else if (offered?.reasons?.length)
    sentences.push(sentence(`Offered to ${offered.to} (${reasonWords(offered.reasons)})`));
  else if (taken) sentences.push(sentence(`${taken.name} took it`));
  return sentences;
}
