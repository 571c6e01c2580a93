import { useCallback, useSyncExternalStore } from "react";

import { keep, kept, onKept } from "../../shared/storage";

/** What is being typed, or null; how to change it; and how to let go of what was sent. */
export type Kept = [
  typed: string | null,
  type: (value: string | null) => void,
  /** Forgets what was typed when it was stored, unless something else was typed since. */
  letGo: (sent: string | null) => void,
];

/**
 * Returns what is being typed under a key. It is kept in the browser, and fields with
 * the same key show the same words.
 */
export function useKept(key: string): Kept {
  const value = useSyncExternalStore(onKept, () => kept(key));
  return [
    value,
    useCallback((next) => keep(key, next), [key]),
    useCallback(
      (sent) => {
        if (kept(key) === sent) keep(key, null);
      },
      [key],
    ),
  ];
}
