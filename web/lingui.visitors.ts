// Texts that visitors read, which are there in more languages than the console's.
import { defineConfig } from "@lingui/conf";

import console from "./lingui.config";
import { visitors } from "./shared/languages";

const visitorProblems = "<rootDir>/shared/visitor-problems.ts";
const panelParts = [
  "along",
  "bookings",
  "calls",
  "help",
  "shown",
  "survey",
  "tickets",
  "translated",
  "ways",
].map((f) => `<rootDir>/widget/panel/${f}/**`);
const tests = ["**/*.test.*", "**/fake-*"];

export default defineConfig({
  ...console,
  locales: visitors,
  catalogs: [
    {
      path: "<rootDir>/locales/panel/{locale}",
      include: ["<rootDir>/widget/panel", "<rootDir>/shared"],
      exclude: [...tests, visitorProblems, ...panelParts],
    },
    // What comes later than a panel: cards in a chat, looking up a booking, finding an answer, the survey.
    { path: "<rootDir>/locales/parts/{locale}", include: panelParts, exclude: tests },
    // What can go wrong is said in English by the server, and by these in other languages.
    {
      path: "<rootDir>/locales/problems/{locale}",
      include: [visitorProblems],
      exclude: tests,
    },
  ],
});
