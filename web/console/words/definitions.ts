// How figures are counted, by the codes of their definitions: the server's own words
// (core/measure), which a test of the server compares with these.
import { t } from "@lingui/core/macro";

const definitions: Record<string, () => string> = {
  chats: () =>
    t`Each chat counts once, at the time at which its visitor asked. A chat counts when it is over: open ones are on the Floor. A message that became a live chat counts from when it did. On the nights on which clocks change, a day has 23 or 25 hours, and each chat stands in the hour that the clock showed.`,
  answered: () => t`Somebody of the team said something before the end, whoever held the chat at the end.`,
  missed: () =>
    t`A live chat in which nobody of the team said anything: the visitor left or ended it while waiting, or somebody took it and stayed silent. Who left while the helper spoke with them, and had no answer from it, is missed too.`,
  helped: () =>
    t`The helper answered, the visitor did not say that this was no help, and they left it or said goodbye without asking for a person. Nobody of the team had to. Such a chat has no wait and no reply times.`,
  helper: () =>
    t`Chats in which the helper spoke: alone, before a person did, or beside the queue while the visitor waited. A chat that it hands over counts from the hand-over, as if it had come then.`,
  messages: () =>
    t`Left while the team was closed, or instead of waiting on. They are answered later and are in none of the times of live chats.`,
  wait: () =>
    t`From the visitor’s question, or from when the helper left it to the team, until somebody first took the chat; of a missed chat, until it ended. Waits after a chat was put back are not in it. Messages have none.`,
  "in-target": () =>
    t`Live chats that somebody took within the department’s answer target, out of all that were taken and those that were missed after the target had passed. Who left before it had passed counts neither way. The target is the one that was set when the chat came in.`,
  "first-reply": () =>
    t`From the visitor’s question to the team’s first words, in answered live chats. Words that were withdrawn answer nothing.`,
  "later-reply": () =>
    t`Each chat counts with the median of its replies after the first. A reply takes from the first of the visitor’s unanswered messages to the team’s next words, so three lines in a row are one turn.`,
  "replies-in-target": () =>
    t`Replies, the first ones too, that came within the answer target, out of all replies. What was never answered is not in it.`,
  silence: () => t`The longest time in which a visitor was owed a word, whether it came or not.`,
  handling: () =>
    t`The time for which operators held the chat, and their work on it after the end. In a chat that was handed on, the time of each operator is added. Messages are not in it: they are held for days, and keep nobody busy.`,
  "at-once": () =>
    t`How many chats an operator held on average while they held any: the time of all chats they held, divided by the time in which they held at least one. Work after the end counts as holding, messages do not, and a chat that was held longer than a day counts for a day.`,
  "own-time": () =>
    t`Handling time divided by how many chats were held at once: what a chat takes of an operator’s time. This is the figure to plan with.`,
  "hand-ons": () =>
    t`How often a chat changed hands: taken by somebody to whom it was handed on, put back, or taken over by a lead.`,
  operators: () =>
    t`A chat counts for each operator who held it, so the chats of all operators can be more than the chats of the team. Replies count for who gave them, from when it was theirs to answer. Who only spoke beside the owner did not hold the chat.`,
  rating: () =>
    t`Of answered chats whose visitors were asked, while the widget’s survey was on. Of a chat rated more than once, the last rating counts. Good means 4 or 5 of 5.`,
  interval: () =>
    t`The bounds between which the true share lies with 95 % confidence, by Wilson’s method. With few chats they are far apart: then the share says little.`,
  percentiles: () =>
    t`Half of the chats are below the median and nine of ten below the 90th percentile. Between two measured values it is interpolated. Times are in whole seconds.`,
  sales: () =>
    t`As operators put them down when they concluded a chat, in the chat’s own currency. Per answered chat: the amount divided by all answered chats, with and without a sale.`,
  invitations: () =>
    t`Chats whose visitors wrote in answer to an invitation, by the rule that made it, or by hand. What invitations did that nobody answered stands in Setup, under Invitations.`,
  rules: () =>
    t`The routing rule that sent the chat when it came in, by the name it had then. What was handed on later stays with that rule.`,
  "message-reply": () =>
    t`From leaving a message to the team’s first answer, counting only the hours in which its department was open.`,
  forecast: () =>
    t`The live chats of the same weekday and half hour in the last twelve weeks, of which recent ones weigh more: a week counts half as much as one four weeks later. Holidays in the department’s hours are left out, and are made of holidays of the same name. Four of five such days lie within the bounds.`,
  needed: () =>
    t`The fewest people with whom the share you chose is taken within the target, by Erlang’s formula with visitors who give up (Erlang A). Each person is as many places as they may hold chats, and how long a chat takes grows with how many they hold, as it did in the team’s own log. The formula takes it that chats come by chance and that nobody is away for other work.`,
  compare: () =>
    t`The period before is the stretch of as many days that ends where this one begins; a year before has the same dates. Of a period that is not over yet, only as much of the one before is taken as has passed. Where that had too few chats to compare, no change is shown.`,
};

/** Says how a figure is counted. */
export function definition(code: string): string {
  return definitions[code]?.() ?? "";
}
