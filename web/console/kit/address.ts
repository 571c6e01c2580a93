import { useCallback, useEffect } from "react";
import { useSearchParams } from "react-router";

// What was changed and is not drawn yet: two changes shortly after each other, from two
// places of a page, are both meant.
let ahead: { over: string; next: URLSearchParams } | undefined;

/** What stands in the address behind the question mark, and how parts of it are changed; an empty one goes. */
export function useAddress(): [URLSearchParams, (part: Record<string, string>) => void] {
  const [address, setAddress] = useSearchParams();
  useEffect(() => {
    ahead = undefined;
  }, [address]);
  const change = useCallback(
    (part: Record<string, string>) => {
      const over = address.toString();
      const next = new URLSearchParams(ahead?.over === over ? ahead.next : address);
      for (const [name, value] of Object.entries(part)) {
        if (value) next.set(name, value);
        else next.delete(name);
      }
      ahead = { over, next };
      setAddress(next, { replace: true });
    },
    [address, setAddress],
  );
  return [address, change];
}
