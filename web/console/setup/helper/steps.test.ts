import { expect, it } from "vitest";

import type { Flow } from "../../../shared/types";
import { answersOf, freshID, nameFrom, newStep, stepTitle, textsWithout, withoutStep } from "./steps";
import { roundedPath } from "./drawing";

const empty: Flow = { name: "Flow", languages: ["en", "de"], steps: [], texts: {} };
const say = {
  ...newStep(empty, "say"),
  id: "greet",
  text: "Hello, I am the helper of the ferry line",
  next: "pick",
};
const pick = {
  ...newStep(empty, "choose"),
  id: "pick",
  name: "topic",
  label: "Topic",
  text: "Which?",
  otherwise: "greet",
  choices: [
    { label: "One", next: "greet" },
    { label: "Two", next: "bye" },
    { label: "Three", next: "bye" },
  ],
};
const bye = { ...newStep(empty, "end"), id: "bye", text: "Bye" };
const flow: Flow = {
  ...empty,
  steps: [say, pick, bye],
  texts: {
    de: { "greet.text": "Hallo", "pick.choice.0": "Eins", "pick.choice.1": "Zwei", "pick.choice.2": "Drei" },
  },
};

it("what led to a removed step leads nowhere, and its translations go with it", () => {
  const rest = withoutStep(flow, "greet");
  expect(rest.steps.map((s) => s.id)).toEqual(["pick", "bye"]);
  expect(rest.steps[0]?.choices.map((c) => c.next)).toEqual(["", "bye", "bye"]);
  expect(rest.steps[0]?.otherwise).toBe("");
  expect(rest.texts.de).not.toHaveProperty("greet.text");
  expect(rest.texts.de).toHaveProperty(["pick.choice.0"], "Eins");
});

it("translations of choices move up when one before them is taken away", () => {
  expect(textsWithout(flow, "pick", "choice", 1).de).toEqual({
    "greet.text": "Hallo",
    "pick.choice.0": "Eins",
    "pick.choice.1": "Drei",
  });
});

it("steps are named by their place and their first words", () => {
  expect(stepTitle(flow, "greet")).toBe("1 · Say: Hello, I am the helper of the fer…");
  expect(stepTitle(flow, "gone")).toBe("(a step that is gone)");
  expect(freshID(flow, "say")).toBe("say-1");
  expect(freshID({ ...flow, steps: [...flow.steps, { ...say, id: "say-1" }] }, "say")).toBe("say-2");
});

it("an answer is stored under a plain name made of what the team calls it", () => {
  expect(nameFrom("Länge des Fahrzeugs (m)")).toBe("lange-des-fahrzeugs-m");
  expect(nameFrom("2. Name")).toBe("name");
  expect(nameFrom("姓名")).toBe("answer");
  expect(answersOf(flow)).toEqual([{ value: "topic", label: "Topic" }]);
});

it("a line bends at its corners and never beyond a short way", () => {
  const path = roundedPath([
    { x: 0, y: 0 },
    { x: 0, y: 20 },
    { x: 4, y: 20 },
    { x: 4, y: 40 },
  ]);
  expect(path).toBe("M0 0L0 14Q0 20 2 20L2 20Q4 20 4 26L4 40");
});
