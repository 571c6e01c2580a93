import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** What stands in the address behind the question mark, and how parts of it are changed; an empty one goes. */
export function useAddress(): [URLSearchParams, (part: Record<string, string>) => void] {
  const [address, setAddress] = useSearchParams();
  const change = useCallback(
    (part: Record<string, string>) =>
      setAddress(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [name, value] of Object.entries(part)) {
            if (value) next.set(name, value);
            else next.delete(name);
          }
          return next;
        },
        { replace: true },
      ),
    [setAddress],
  );
  return [address, change];
}
