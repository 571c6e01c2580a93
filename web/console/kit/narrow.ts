import { useSyncExternalStore } from "react";

// As wide as our style sheets take a phone to be.
const narrow = "(max-width: 760px)";

/** Reports whether there is no more room than on a phone, also when that changes. */
export function useNarrow(): boolean {
  return useSyncExternalStore(
    (listener) => {
      const query = matchMedia(narrow);
      query.addEventListener("change", listener);
      return () => query.removeEventListener("change", listener);
    },
    () => matchMedia(narrow).matches,
  );
}
