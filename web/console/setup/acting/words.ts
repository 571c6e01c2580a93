import { plural, t } from "@lingui/core/macro";

import type { ActingRule, RuleAct, RuleResult } from "../../../shared/types";

type When = ActingRule["when"];
type Kind = RuleAct["kind"];

/** The occasions, as they are chosen. */
export const occasions = (): { value: When; label: string }[] => [
  { value: "arrives", label: t`A chat begins` },
  { value: "waits", label: t`Nobody has taken the chat` },
  { value: "silent", label: t`The visitor has not answered` },
  { value: "unanswered", label: t`The operator has not answered` },
  { value: "rated-low", label: t`The visitor rates a chat poor` },
  { value: "ends", label: t`A chat ends` },
  { value: "message", label: t`A message is left while nobody is in` },
];

/** What can be done, as it is chosen. */
export const actKinds = (): { value: Kind; label: string }[] => [
  { value: "say", label: t`Say something to the visitor` },
  { value: "tag", label: t`Add a tag` },
  { value: "priority", label: t`Set the priority` },
  { value: "ask", label: t`Ask the team for help` },
  { value: "hand-on", label: t`Hand on to a department` },
  { value: "ticket", label: t`Make a ticket` },
  { value: "mail", label: t`Send an email to the team` },
  { value: "webhook", label: t`Tell a webhook` },
];

/** What is offered to be done of what can be; what a rule has already stays in the list. */
export function actsFor(possible: readonly Kind[], has: Kind) {
  return actKinds().filter((k) => k.value === has || possible.includes(k.value));
}

/** Says in a line when a rule acts. */
export function whenWords(r: Pick<ActingRule, "when" | "seconds">): string {
  const s = r.seconds ?? 0;
  switch (r.when) {
    case "waits":
      return t`after ${s} s of waiting`;
    case "silent":
      return t`after ${s} s without an answer of the visitor`;
    case "unanswered":
      return t`after ${s} s without an answer of the operator`;
    default:
      return (occasions().find((o) => o.value === r.when)?.label ?? r.when).toLowerCase();
  }
}

/** Says in a line what a rule does. */
export function doWords(acts: readonly { kind: Kind }[]): string {
  return acts.length === 0
    ? t`does nothing yet`
    : plural(acts.length, { one: "does # thing", other: "does # things" });
}

/** Says what became of an act. */
export function resultWords(r: RuleResult): string {
  const what =
    {
      say: t`words to the visitor`,
      tag: t`tag`,
      priority: t`priority`,
      ask: t`team asked`,
      "hand-on": t`handed on`,
      ticket: r.ticket ? t`ticket ${r.ticket}` : t`ticket`,
      mail: t`email`,
      webhook: t`webhook`,
    }[r.kind] ?? r.kind;
  const why = {
    "not-so": t`no longer so`,
    "in-a-row": t`the last words were automatic, too`,
    already: t`was so already`,
    helper: t`the helper was answering`,
    asked: t`somebody was being asked to take it`,
    "been-there": t`a rule has handed it on before`,
    gone: t`what it needs is gone`,
    "too-many": t`rules have done enough here`,
    cannot: t`no mail is set up`,
    failed: t`failed`,
  }[r.why || "failed"];
  return r.why ? t`${what}: not done, ${why}` : what;
}
