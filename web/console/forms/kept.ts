import { useCallback, useSyncExternalStore } from "react";

import { keep, kept, onKept } from "../../shared/storage";

/**
 * Returns what is being typed under a key, or null, and how to change it. It is
 * kept in the browser, and fields with the same key show the same words.
 */
export function useKept(key: string): [string | null, (value: string | null) => void] {
  const value = useSyncExternalStore(onKept, () => kept(key));
  return [value, useCallback((next) => keep(key, next), [key])];
}
