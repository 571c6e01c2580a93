import { RE2JS } from "re2js";

/**
 * Reports whether a pattern fits the whole of an answer. Patterns are RE2's here as on the
 * server: they take a time linear in the answer, whatever somebody wrote. What cannot be
 * read fits nothing.
 */
export function matches(pattern: string, answer: string): boolean {
  try {
    return RE2JS.compile(pattern).matches(answer);
  } catch {
    return false;
  }
}
