import { t } from "@lingui/core/macro";

import type { Flow, FlowStep } from "../../../shared/types";
import { locale } from "../../../shared/speak";
import { newStep } from "./steps";

/** A flow to begin with. */
export interface Beginning {
  name: string;
  about: string;
  flow: Flow;
}

/** Flows to begin with, in the language of the console. */
export function beginnings(name: string): Beginning[] {
  const empty: Flow = { name, languages: [locale().slice(0, 2)], steps: [], texts: {} };
  const step = (id: string, kind: FlowStep["kind"], part: Partial<FlowStep>): FlowStep => ({
    ...newStep(empty, kind),
    id,
    ...part,
  });
  const over = [
    step("over", "hand-over", {
      text: t`I hand you over to our team, with all that you wrote.`,
      otherwise: "email",
    }),
    step("email", "ask", {
      sort: "email",
      name: "email",
      label: t`Email`,
      text: t`Nobody of our team is in right now. To which email address may we answer?`,
      next: "keep",
      otherwise: "keep",
    }),
    step("keep", "message", { text: t`Thank you. We answer as soon as we are in.` }),
  ];
  return [
    {
      name: t`Answer from articles`,
      about: t`Looks for an answer to what the visitor wrote, asks whether it helped, and hands over if it did not.`,
      flow: {
        ...empty,
        steps: [
          step("greet", "say", {
            text: t`Hello, I am the helper. I answer at once; a person is one press away.`,
            next: "look",
          }),
          step("look", "articles", { check: true, next: "more", otherwise: "over" }),
          step("more", "choose", {
            text: t`Is there anything else?`,
            otherwise: "look",
            choices: [
              { label: t`Another question`, next: "again" },
              { label: t`No, thank you`, next: "bye" },
            ],
          }),
          step("again", "ask", {
            sort: "words",
            name: "question",
            label: t`Another question`,
            text: t`What would you like to know?`,
            next: "look",
          }),
          ...over,
          step("bye", "end", { text: t`You are welcome. Goodbye!` }),
        ],
      },
    },
    {
      name: t`Ask first, then hand over`,
      about: t`Asks what it is about and leaves the chat to your team at once, with the answer.`,
      flow: {
        ...empty,
        steps: [
          step("about", "choose", {
            name: "topic",
            label: t`What it is about`,
            text: t`Thank you. What is it about?`,
            otherwise: "over",
            choices: [
              { label: t`A question before I buy`, next: "over" },
              { label: t`Something I have bought`, next: "over" },
            ],
          }),
          ...over,
        ],
      },
    },
    {
      name: t`Empty`,
      about: t`One step that hands over, to build on.`,
      flow: {
        ...empty,
        steps: [step("over", "hand-over", { text: t`Somebody of our team will be with you.` })],
      },
    },
  ];
}
