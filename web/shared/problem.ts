import type { Problem } from "./types";

/** The server's answer that something cannot be done, with what to do. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(`${problem.title}. ${problem.detail}`);
  }
}

/** The server was not reached, or did not answer. Whether it acted is open. */
export class LostError extends Error {
  constructor() {
    super("No connection to Stoop. Trying again.");
  }
}

/** Reports whether sending the same again may succeed. */
export function mayRetry(error: unknown): boolean {
  return !(error instanceof ProblemError) || error.problem.retry;
}

/** Returns words for a person about any error. */
export function wordsFor(error: unknown): string {
  if (error instanceof ProblemError || error instanceof LostError) return error.message;
  return "Something broke on this page. Reload it; what you typed is kept.";
}
