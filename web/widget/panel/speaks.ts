import { i18n } from "@lingui/core";

import { sayProblemsBy } from "../../shared/problem";
import { language } from "../../shared/speak";
import { sayInstead, sayUsual } from "./instead";

/** Speaks a language that there are words for. */
export async function speaks(wanted: string): Promise<void> {
  const { messages } = await import(`../../locales/panel/${wanted}.po`);
  sayUsual(wanted, messages);
  // In English the server says them itself.
  if (wanted !== "en") void problems(wanted);
}

/** Speaks as a widget does: its language, and its own words in the place of the usual ones. */
export async function speaksAs(widget: { language: string; words: Record<string, string> }): Promise<void> {
  if (widget.language !== language()) await speaks(widget.language);
  sayInstead(widget.words);
}

async function problems(wanted: string): Promise<void> {
  const [{ visitorProblem, visitorField }, { messages }] = await Promise.all([
    import("../../shared/visitor-problems"),
    import(`../../locales/problems/${wanted}.po`),
  ]);
  i18n.load(wanted, messages);
  sayProblemsBy(visitorProblem, visitorField);
}
