import { describe, expect, it } from "vitest";

import { tokens, type Mode } from "./tokens";

/** Relative luminance of #rrggbb: WCAG 2.2, https://www.w3.org/TR/WCAG22/#dfn-relative-luminance */
function luminance(colour: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const c = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** Contrast ratio: WCAG 2.2, https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio */
function contrast(a: string, b: string): number {
  const [dark = 0, light = 0] = [luminance(a), luminance(b)].sort((x, y) => x - y);
  return (light + 0.05) / (dark + 0.05);
}

const surfaces = ["paper", "paper-2", "panel", "panel-2", "hatch"];
// Text on what it stands on, as the styles use them.
const texts: [text: string, on: string[]][] = [
  ["ink", [...surfaces, "brick-tint", "moss-tint", "amber-tint", "late-tint", "slate-tint", "hit"]],
  ["ink-2", [...surfaces, "brick-tint", "slate-tint"]],
  ["ink-3", ["paper", "panel", "panel-2"]],
  ["brick", ["paper", "panel", "panel-2", "brick-tint"]],
  ["moss", ["paper", "panel", "moss-tint"]],
  ["amber", ["paper", "panel", "panel-2", "amber-tint"]],
  ["late", ["paper", "panel", "panel-2", "late-tint"]],
  ["slate", ["paper", "panel", "panel-2", "slate-tint"]],
  ["on-brick", ["brick-fill", "brick-strong"]],
  ["on-plate", ["plate"]],
  ["on-plate-2", ["plate"]],
  ["on-dusk", ["dusk"]],
  ["on-dusk-2", ["dusk"]],
];
// Edges and marks that tell something: 3:1 (WCAG 2.2, 1.4.11).
const marks: [mark: string, on: string[]][] = [
  ["field", ["paper", "panel"]],
  ["focus", ["paper", "panel", "panel-2"]],
  ["moss-mark", ["panel"]],
  ["amber-mark", ["panel"]],
  ["late-mark", ["panel"]],
  ["slate-mark", ["panel"]],
];

describe.each(["light", "dark"] as Mode[])("%s", (mode) => {
  const colour = (name: string): string => {
    const value = tokens[mode][name] ?? tokens.light[name];
    if (!value?.startsWith("#")) throw new Error(`--${name} is no colour`);
    return value.length === 4 ? `#${[...value.slice(1)].map((c) => c + c).join("")}` : value;
  };
  it.each(texts.flatMap(([text, on]) => on.map((surface) => ({ text, surface }))))(
    "$text can be read on $surface",
    ({ text, surface }) => expect(contrast(colour(text), colour(surface))).toBeGreaterThanOrEqual(4.5),
  );
  it.each(marks.flatMap(([mark, on]) => on.map((surface) => ({ mark, surface }))))(
    "$mark is seen on $surface",
    ({ mark, surface }) => expect(contrast(colour(mark), colour(surface))).toBeGreaterThanOrEqual(3),
  );
});

it("computes what the standard says", () => {
  expect(contrast("#000000", "#ffffff")).toBeCloseTo(21, 5); // the greatest there is
  expect(contrast("#767676", "#ffffff")).toBeCloseTo(4.54, 2); // known as the lightest grey that passes; from memory
});
