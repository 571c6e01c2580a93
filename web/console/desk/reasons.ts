import type { EventView, ReasonView } from "../../shared/types";

type Values = Record<string, string>;

const number = (v: Values, name: string) => Number(v[name] ?? 0);
const chats = (n: number) => (n === 1 ? "1 chat" : `${n} chats`);

/** Words for each reason that routing gives. The first of a decision begins a sentence. */
const words: Record<string, (v: Values) => string> = {
  rule: (v) => `the rule “${v.rule}” matched`,
  "form-department": (v) => `the visitor chose ${v.department} in the form`,
  default: (v) => `no rule matched, and ${v.department} takes what no rule sends elsewhere`,
  "rule-operator": (v) => `the rule wants ${v.operator} first`,
  "account-owner": (v) => `${v.operator} looks after this customer`,
  "last-operator": (v) => `${v.operator} answered last time`,
  "operator-away": (v) => `${v.operator} is not there`,
  "operator-full": (v) => `${v.operator} holds ${v.load} of ${v.capacity} chats`,
  priority: (v) => `it has priority ${v.priority}`,
  "department-gone": (v) => `the rule “${v.rule}” names a department that is no more`,
  "operator-gone": (v) => `the rule “${v.rule}” names somebody who is no more in the team`,
  fewest: (v) => `${v.operator} had the fewest chats, ${chats(number(v, "load"))}`,
  turn: (v) => `it was ${v.operator}’s turn`,
  share: (v) => `${v.operator} used the smallest share of their capacity, ${v.load} of ${v.capacity}`,
  language: (v) => `${v.operator} speaks the visitor’s language (${v.language})`,
  "only-one": (v) => `${v.operator} was the only one with room`,
  backup: () => "nobody of the primary members had room",
  overflow: (v) => `${v.to} helps ${v.from}`,
  "overflow-seconds": (v) => `it waited ${v.seconds} seconds`,
  "overflow-length": (v) => `${v.waiting} were waiting, more than ${v.length}`,
  "overflow-closed": (v) => `${v.department} is closed`,
  "overflow-nobody": (v) => `nobody of ${v.department} is in`,
  "nobody-has-room": (v) => `nobody of ${v.department} has room`,
  "nobody-available": (v) => `nobody of ${v.department} is available`,
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
    sentences.push(
      sentence(`It went to ${routed.to || "the team"} because ${reasonWords(routed.reasons ?? [])}`),
    );
  if (overflowed)
    sentences.push(sentence(reasonWords(overflowed.reasons ?? []).replace(" and ", " because ")));
  if (taken?.how === "assigned")
    sentences.push(sentence(`${taken.name} got it because ${reasonWords(taken.reasons ?? [])}`));
  else if (offered?.reasons?.length)
    sentences.push(sentence(`It was offered to ${offered.to} because ${reasonWords(offered.reasons)}`));
  else if (taken) sentences.push(sentence(`${taken.name} took it`));
  return sentences;
}
