import { defineConfig } from "@lingui/conf";
import { formatter } from "@lingui/format-po";

import { consoles } from "./shared/languages";

const visitorProblems = "<rootDir>/shared/visitor-problems.ts";
const tests = ["**/*.test.*", "**/fake-*"];

// What comes later than the console's first screen, folder by folder.
const laterFiles = [
  ...[
    "along",
    "contacts",
    "feedback",
    "filters",
    "floor",
    "forms",
    "library",
    "palette",
    "person",
    "reports",
    "reviews",
    "session",
    "setup",
    "tickets",
    "transcripts",
    "visitors",
  ].map((f) => `<rootDir>/console/${f}/**`),
  "<rootDir>/console/desk/kinds-later/**",
  "<rootDir>/console/guests/basket.tsx",
  "<rootDir>/console/guests/path.tsx",
  "<rootDir>/console/guests/words.ts",
  "<rootDir>/console/kit/charts.tsx",
  "<rootDir>/console/kit/date-field.tsx",
  "<rootDir>/console/kit/import-file.tsx",
  "<rootDir>/console/talk/talk.tsx",
  "<rootDir>/console/notices/notifications.tsx",
  "<rootDir>/console/notices/push-here.tsx",
  "<rootDir>/console/frame/my-menu.tsx",
  ...[
    "about",
    "card-search",
    "chat-by-link",
    "beside",
    "voice",
    "article-search",
    "ask-team",
    "ban-dialog",
    "emoji",
    "ended-foot",
    "hand-on",
    "lane-mover",
    "on-site",
  ].map((f) => `<rootDir>/console/desk/${f}.tsx`),
  ...[
    "way",
    "watcher-foot",
    "with-helper",
    "company",
    "lane-window",
    "message-menu",
    "outcome",
    "owner-menu",
    "tags",
    "too-many",
    "outgoing",
    "translated",
    "translation-bar",
    "translation-dialog",
    "upload-lines",
    "along-view",
    "attachments",
    "offer-address",
    "page-search",
    "showing-bar",
    "ticket-search",
  ].map((f) => `<rootDir>/console/desk/${f}.tsx`),
  "<rootDir>/console/keyboard/acts-words.ts",
  "<rootDir>/console/words/definitions.ts",
  "<rootDir>/console/words/fields.ts",
  "<rootDir>/console/words/hours.ts",
  "<rootDir>/console/words/problems.ts",
  "<rootDir>/console/words/sentences.ts",
  "<rootDir>/console/words/settings.ts",
];

export default defineConfig({
  sourceLocale: "en",
  locales: consoles,
  fallbackLocales: { default: "en" },
  format: formatter({ lineNumbers: false }),
  catalogs: [
    {
      path: "<rootDir>/locales/console/{locale}",
      include: ["<rootDir>/console", "<rootDir>/shared"],
      exclude: [...tests, ...laterFiles, visitorProblems],
    },
    // What is not on the console's first screen; see kit/later.ts.
    { path: "<rootDir>/locales/later/{locale}", include: [...laterFiles, visitorProblems], exclude: tests },
  ],
  // Words are found by the one instance of each page; nothing has to be handed down.
  runtimeConfigModule: { Trans: ["@stoop/trans", "Trans"] },
});
