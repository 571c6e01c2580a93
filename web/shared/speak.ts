import { i18n, type MessageDescriptor, type Messages } from "@lingui/core";

import { localeOf, runsLeft } from "./languages";

/** Speaks a language from now on. Its words must be there before anything that says them is loaded. */
export function speak(language: string, messages: Messages): void {
  i18n.loadAndActivate({ locale: language, messages });
  document.documentElement.lang = language;
  document.documentElement.dir = runsLeft(language) ? "rtl" : "ltr";
}

/** Returns the language that is spoken. */
export function language(): string {
  return i18n.locale || "en";
}

/** Returns the locale by which numbers and dates are written. */
export function locale(): string {
  return localeOf(language());
}

/** Adds texts of the language that is spoken. */
export function sayAlso(messages: Messages): void {
  i18n.load(language(), messages);
}

/** Says a text that was marked elsewhere: a part that comes later needs no catalogue code of its own. */
export const say = (text: MessageDescriptor): string => i18n._(text);
