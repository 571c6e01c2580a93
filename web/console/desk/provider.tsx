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

/** Returns the server's time, anew each second. */
export function useNow(): number {
  const store = useDeskStore();
  const [now, setNow] = useState(() => store.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(store.now()), 1000);
    return () => clearInterval(timer);
  }, [store]);
  return now;
}
