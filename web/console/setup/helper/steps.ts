// What can be done with the steps of a flow, and how they are called.
import { t } from "@lingui/core/macro";

import type { Flow, FlowStep } from "../../../shared/types";

/** The kinds of steps, in the order in which they are offered. */
export const kinds: readonly FlowStep["kind"][] = [
  "say",
  "ask",
  "choose",
  "articles",
  "booking",
  "branch",
  "tag",
  "hand-over",
  "message",
  "end",
];

/** Says what a step does, in two or three words. */
export function kindWords(kind: FlowStep["kind"]): string {
  switch (kind) {
    case "say":
      return t`Say`;
    case "ask":
      return t`Ask`;
    case "choose":
      return t`Let choose`;
    case "articles":
      return t`Answer from articles`;
    case "booking":
      return t`Look up a booking`;
    case "branch":
      return t`Branch`;
    case "tag":
      return t`Tag`;
    case "hand-over":
      return t`Hand over`;
    case "message":
      return t`Keep as message`;
    default:
      return t`Say goodbye`;
  }
}

/** Says what a step of a kind is for. */
export function kindAbout(kind: FlowStep["kind"]): string {
  switch (kind) {
    case "say":
      return t`Says something and goes on.`;
    case "ask":
      return t`Asks for words, an email address, a number or a date. What does not fit is asked for again, three times at most.`;
    case "choose":
      return t`Offers choices to press. Who writes something else goes the other way, or is asked again.`;
    case "articles":
      return t`Looks for an answer among the articles for visitors, and says it with a link if it is sure enough.`;
    case "booking":
      return t`Looks for the visitor’s own booking by number and name, as asked for in earlier steps.`;
    case "branch":
      return t`Goes on by what the visitor wrote or what is known of them. The first case that holds decides.`;
    case "tag":
      return t`Puts tags on the chat and goes on.`;
    case "hand-over":
      return t`Leaves the chat to your team, with all that was said. If nobody is in, it goes the other way, or the question is kept as a message.`;
    case "message":
      return t`Keeps the question as a message, to be answered later. Ask for an email address before it.`;
    default:
      return t`Says goodbye and ends the chat.`;
  }
}

/** The first words of a step, to tell it from others. */
export function stepGist(step: FlowStep): string {
  switch (step.kind) {
    case "branch":
      return step.cases
        .map((c) => c.keywords[0] ?? c.if[0]?.value ?? "")
        .filter(Boolean)
        .join(" / ");
    case "tag":
      return step.tags.join(", ");
    default:
      return step.text;
  }
}

const gistLength = 34;

/** Names a step by its place and its words: steps have no other name. */
export function stepTitle(flow: Flow, id: string): string {
  const at = flow.steps.findIndex((s) => s.id === id);
  const step = flow.steps[at];
  if (!step) return t`(a step that is gone)`;
  const gist = [...stepGist(step)];
  const words =
    gist.length > gistLength
      ? `${gist
          .slice(0, gistLength - 1)
          .join("")
          .trimEnd()}…`
      : gist.join("");
  return words ? `${at + 1} · ${kindWords(step.kind)}: ${words}` : `${at + 1} · ${kindWords(step.kind)}`;
}

/** Returns an id that no step of a flow has. */
export function freshID(flow: Flow, kind: string): string {
  for (let n = 1; ; n++) {
    const id = `${kind}-${n}`;
    if (!flow.steps.some((s) => s.id === id)) return id;
  }
}

/** A step of a kind that does nothing yet. */
export function newStep(flow: Flow, kind: FlowStep["kind"]): FlowStep {
  return {
    id: freshID(flow, kind),
    kind,
    text: "",
    next: "",
    otherwise: "",
    name: "",
    label: "",
    sort: kind === "ask" ? "words" : "",
    retry: "",
    choices:
      kind === "choose"
        ? [
            { label: "", next: "" },
            { label: "", next: "" },
          ]
        : [],
    cases: kind === "branch" ? [{ keywords: [], match: "all", if: [], next: "" }] : [],
    person: "",
    look: "",
    check: kind === "articles",
    tags: [],
    department: "",
  };
}

/** Returns a flow without a step; what led to it leads nowhere, which the check says. */
export function withoutStep(flow: Flow, id: string): Flow {
  const off = (to: string) => (to === id ? "" : to);
  const texts = Object.fromEntries(
    Object.entries(flow.texts).map(([language, words]) => [
      language,
      Object.fromEntries(Object.entries(words).filter(([key]) => !key.startsWith(`${id}.`))),
    ]),
  );
  return {
    ...flow,
    texts,
    steps: flow.steps
      .filter((s) => s.id !== id)
      .map((s) => ({
        ...s,
        next: off(s.next),
        otherwise: off(s.otherwise),
        choices: s.choices.map((c) => ({ ...c, next: off(c.next) })),
        cases: s.cases.map((c) => ({ ...c, next: off(c.next) })),
      })),
  };
}

/**
 * Returns the texts of a flow after one of a step's choices or cases was taken away: the
 * translations of those behind it move up with them.
 */
export function textsWithout(
  flow: Flow,
  step: string,
  what: "choice" | "keywords",
  at: number,
): Flow["texts"] {
  const prefix = `${step}.${what}.`;
  return Object.fromEntries(
    Object.entries(flow.texts).map(([language, words]) => [
      language,
      Object.fromEntries(
        Object.entries(words).flatMap(([key, text]) => {
          if (!key.startsWith(prefix)) return [[key, text]];
          const n = Number(key.slice(prefix.length));
          if (n === at) return [];
          return [[n > at ? `${prefix}${n - 1}` : key, text]];
        }),
      ),
    ]),
  );
}

/** The answers that a flow asks for, by their names. */
export function answersOf(flow: Flow): { value: string; label: string }[] {
  const seen = new Set<string>();
  return flow.steps.flatMap((s) => {
    if ((s.kind !== "ask" && s.kind !== "choose") || !s.name || seen.has(s.name)) return [];
    seen.add(s.name);
    return [{ value: s.name, label: s.label || s.name }];
  });
}

const notInNames = /[^a-z0-9]+/g;

/** Makes the name by which an answer is stored of how the team calls it. */
export function nameFrom(label: string): string {
  const name = label
    .normalize("NFD")
    .toLowerCase()
    .replace(/\p{M}/gu, "")
    .replace(notInNames, "-")
    .replace(/^[^a-z]+|-+$/g, "")
    .slice(0, 40);
  return name || "answer";
}
