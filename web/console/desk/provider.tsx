import { useSnackbar } from "notistack";
import { createContext, use, useEffect, useState, useSyncExternalStore, type ReactNode } from "react";

import type { OperatorView } from "../../shared/types";
import { DeskStore, type DeskState } from "./store";

const StoreContext = createContext<DeskStore | null>(null);

interface Props {
  me: OperatorView;
  onSignedOut: () => void;
  children: ReactNode;
}

/** Keeps the Desk alive on every page of the console. */
export function DeskProvider({ me, onSignedOut, children }: Props) {
  const { enqueueSnackbar } = useSnackbar();
  const [store] = useState(
    () => new DeskStore(me, onSignedOut, (words) => enqueueSnackbar(words, { variant: "info" })),
  );
  useEffect(() => store.start(), [store]);
  return <StoreContext value={store}>{children}</StoreContext>;
}

/** Returns the Desk's store, for doing things. */
export function useDeskStore(): DeskStore {
  const store = use(StoreContext);
  if (!store) throw new Error("useDeskStore is used outside of DeskProvider");
  return store;
}

/** Returns what the Desk shows now. */
export function useDesk(): DeskState {
  const store = useDeskStore();
  return useSyncExternalStore(store.subscribe, store.snapshot);
}

/** Returns a part of what the Desk shows; only its changes draw anew. The part must be the same object while nothing changed. */
export function useDeskPart<T>(select: (state: DeskState) => T): T {
  const store = useDeskStore();
  return useSyncExternalStore(store.subscribe, () => select(store.state));
}

// One clock for all that ticks: everything that changes with a second is drawn at once.
const ticking = new Set<() => void>();
let ticker: ReturnType<typeof setInterval> | undefined;

function everySecond(listener: () => void): () => void {
  ticking.add(listener);
  ticker ??= setInterval(() => {
    for (const tick of ticking) tick();
  }, 1000);
  return () => {
    ticking.delete(listener);
    if (ticking.size > 0) return;
    clearInterval(ticker);
    ticker = undefined;
  };
}

/** Returns what follows from the server's time; it is drawn anew only when that changes. */
export function useAt<T extends string | number | boolean>(select: (now: number) => T): T {
  const store = useDeskStore();
  return useSyncExternalStore(everySecond, () => select(Math.floor(store.now() / 1000) * 1000));
}

/** Returns the server's time, anew each second. */
export function useNow(): number {
  return useAt((now) => now);
}
