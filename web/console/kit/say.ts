import { wordsFor } from "../../shared/problem";

/** How something that is said is meant. */
export type Tone = "info" | "success" | "error";

/** What is said over the page for a moment. */
export interface Said {
  words: string;
  tone: Tone;
}

// What shows it comes with the first thing that is said.
let show: ((said: Said) => void) | undefined;
const waiting: Said[] = [];
const listeners = new Set<() => void>();

/** Says something to the operator, over whatever they look at, for a moment. */
export function say(words: string, tone: Tone = "info"): void {
  if (show) {
    show({ words, tone });
    return;
  }
  waiting.push({ words, tone });
  for (const listener of listeners) listener();
}

/** Says what went wrong. */
export function sayTrouble(error: unknown): void {
  say(wordsFor(error), "error");
}

/** Takes over what is said: what waits, and all that follows. Returns how to stop. */
export function takeSaid(taker: (said: Said) => void): () => void {
  show = taker;
  for (const said of waiting.splice(0)) taker(said);
  return () => {
    if (show === taker) show = undefined;
  };
}

/** Reports whether something waits to be shown. */
export const saysWait = (): boolean => waiting.length > 0;

/** Calls listener when something begins to wait. */
export function onSaid(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
