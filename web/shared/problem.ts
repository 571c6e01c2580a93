import { t } from "@lingui/core/macro";

import { language } from "./speak";
import type { Problem } from "./types";

/** What happened, and what to do. */
export interface ProblemText {
  title: string;
  detail: string;
}

let said: (problem: Problem) => ProblemText | undefined = () => undefined;
let saidAtField: (text: string) => string | undefined = () => undefined;

/** Says problems, and what is wrong at fields, in these words from now on. */
export function sayProblemsBy(words: typeof said, atFields: typeof saidAtField): void {
  said = words;
  saidAtField = atFields;
}

/** Says a sentence of the server's in the language that is spoken, as far as it is known. */
export function sentence(words: string): string {
  return (language() === "en" ? undefined : saidAtField(words)) ?? words;
}

/** What is wrong, by field. */
export function wrongFields(problem: Problem | undefined): Record<string, string> {
  return Object.fromEntries((problem?.fields ?? []).map((f) => [f.field, sentence(f.words)]));
}

/**
 * Returns what to say of a problem in the language that is spoken. The server's own
 * text is English: it is said where that is spoken, and of what has no words here yet.
 */
export function textOf(problem: Problem): ProblemText {
  return (language() === "en" ? undefined : said(problem)) ?? problem;
}

/** The server's answer that something cannot be done, with what to do. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(`${textOf(problem).title}. ${textOf(problem).detail}`);
  }
}

/** The server was not reached, or did not answer. Whether it acted is open. */
export class LostError extends Error {
  constructor() {
    super(t`No connection to Stoop. Trying again.`);
  }
}

/** Reports whether sending the same again may succeed. */
export function mayRetry(error: unknown): boolean {
  return !(error instanceof ProblemError) || error.problem.retry;
}

/** Returns words for a person about any error. */
export function wordsFor(error: unknown): string {
  if (error instanceof ProblemError || error instanceof LostError) return error.message;
  return t`Something broke on this page. Reload it; what you typed is kept.`;
}
