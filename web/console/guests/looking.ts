import { useEffect, useMemo } from "react";
import { useStore } from "zustand";

import type { Look } from "../../shared/types";
import { useDeskStore } from "../desk/provider";
import type { Seen } from "../desk/store/looks";

/** Looks at those on the sites while it is shown; reads a part of what is seen. */
export function useLooking(look: Look): void {
  const { looks } = useDeskStore();
  const text = JSON.stringify(look);
  useEffect(() => looks.look(JSON.parse(text) as Look), [looks, text]);
  useEffect(() => () => looks.end(look.id), [looks, look.id]);
}

/** Reads of what is seen under a name. */
export function useSeen<Part>(id: string, select: (seen: Seen) => Part): Part {
  const { looks } = useDeskStore();
  const store = useMemo(() => looks.seen(id), [looks, id]);
  return useStore(store, select);
}
