import { useEffect, useRef, useState } from "react";

import type { Suggestion } from "../../shared/types";

/** Canned responses that fit what is being typed, and which of them is marked. */
export interface Suggestions {
  list: Suggestion[];
  marked: number;
  /** The full list was opened by a semicolon: it replaces the text from here on. */
  listFrom: number | undefined;
  mark: (step: number) => void;
  /** Hides them while the field holds this text, and until another word begins. */
  dismiss: (text: string) => void;
}

/**
 * Finds where a full list was called: a semicolon at the beginning or behind
 * white space, followed by what is searched for. Words behind a closed sentence
 * are no search any more.
 */
export function listStart(text: string): number | undefined {
  const at = text.lastIndexOf(";");
  if (at < 0 || (at > 0 && !/\s/.test(text.charAt(at - 1)))) return undefined;
  const search = text.slice(at + 1);
  return /^[^\n;]{0,40}$/.test(search) && !search.startsWith(" ") && !/[.?!]\s/.test(search) ? at : undefined;
}

/** Asks for suggestions while somebody types; of two answers the later one counts. */
export function useSuggestions(
  text: string,
  enabled: boolean,
  ask: (text: string, all: boolean) => Promise<Suggestion[]>,
): Suggestions {
  const [found, setFound] = useState<{ for: string; list: Suggestion[] }>({ for: "", list: [] });
  const [marked, setMarked] = useState(0);
  const [dismissed, setDismissed] = useState("");
  const latest = useRef(0);
  const asking = useRef(ask);
  useEffect(() => {
    asking.current = ask;
  });
  const listFrom = listStart(text);
  // What was dismissed stays so until another word begins.
  const off =
    !enabled ||
    text.trim() === "" ||
    (dismissed !== "" && text.startsWith(dismissed) && !/\s/.test(text.slice(dismissed.length)));
  useEffect(() => {
    const number = ++latest.current;
    if (off) return;
    const from = listStart(text);
    const question =
      from === undefined ? asking.current(text, false) : asking.current(text.slice(from + 1), true);
    question.then(
      (list) => {
        if (number !== latest.current) return;
        setFound({ for: text, list });
        setMarked(0);
      },
      () => undefined, // without a connection there are none
    );
  }, [text, off]);
  const list = !off && found.for === text ? found.list : [];
  return {
    list,
    marked: Math.min(marked, Math.max(0, list.length - 1)),
    listFrom: list.length > 0 ? listFrom : undefined,
    mark: (step) => setMarked((m) => (m + step + list.length) % Math.max(1, list.length)),
    dismiss: setDismissed,
  };
}

/** Puts a response into what was typed; the rest stays. */
export function inserted(text: string, suggestion: Suggestion, listFrom: number | undefined): string {
  const before =
    listFrom === undefined ? text.slice(0, text.length - suggestion.match.length) : text.slice(0, listFrom);
  return before + suggestion.text;
}

/** Returns the placeholders without a value that still stand in a text. */
export function stillMissing(text: string, missing: readonly string[]): string[] {
  return missing.filter((name) => new RegExp(`\\{\\s*${escaped(name)}\\s*\\}`).test(text));
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
}
