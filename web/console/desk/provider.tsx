import { useQueryClient } from "@tanstack/react-query";
import { createContext, use, useEffect, useState, useSyncExternalStore, type ReactNode } from "react";
import { useStore, type StoreApi } from "zustand";
import { useShallow } from "zustand/react/shallow";

import type { ChatView, OperatorView } from "../../shared/types";
import { DeskStore } from "./store/desk-store";
import { isMine, mine } from "./store/lists";
import type { Moved } from "./store/intake";
import type { Stores } from "./store/stores";
import { say } from "../kit/say";

const StoreContext = createContext<DeskStore | null>(null);

interface Props {
  me: OperatorView;
  onSignedOut: () => void;
  children: ReactNode;
}

/** What is asked for anew when it moved on the server, by the first part of its query key. */
const asked: Record<Moved, string[]> = {
  floor: ["floor"],
  alerts: ["alerts"],
  reviews: ["reviews"],
  talk: ["rooms"],
  feedback: ["feedback"],
  tickets: ["tickets", "ticket"],
  library: ["canned", "articles", "article", "palette-canned"],
};

/** Keeps the Desk alive on every page of the console. */
export function DeskProvider({ me, onSignedOut, children }: Props) {
  const queries = useQueryClient();
  const [store] = useState(
    () =>
      new DeskStore(me, {
        signedOut: onSignedOut,
        say: (words) => say(words),
        moved: (what) => {
          for (const key of asked[what]) void queries.invalidateQueries({ queryKey: [key] });
        },
      }),
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

/** Makes a hook that reads a part of one of the Desk's stores; only its changes draw anew. */
function reads<T>(of: (stores: Stores) => StoreApi<T>) {
  return function useRead<Part>(select: (state: T) => Part): Part {
    return useStore(of(useDeskStore().stores), select);
  };
}

/** Reads of me, my colleagues and what the team has set. */
export const useTeam = reads((s) => s.team);
/** Reads of the chats on the Desk. */
export const useChats = reads((s) => s.chats);
/** Reads of what was said and is being said. */
export const useScripts = reads((s) => s.scripts);
/** Reads of where visitors are. */
export const usePlaces = reads((s) => s.places);
/** Reads of the files on their way. */
export const useUploads = reads((s) => s.uploads);
/** Reads of how I want my console. */
export const usePreferences = reads((s) => s.preferences);
/** Reads of what is on screen. */
export const useWindows = reads((s) => s.windows);

/** Returns me. */
export function useMe(): OperatorView {
  return useTeam((s) => s.me);
}

/** Returns a chat of the Desk. */
export function useChat(id: string): ChatView | undefined {
  return useChats((s) => s.chats.get(id));
}

/** Returns a list of chats, or what is told of each; anew only when a member changes. */
export function useListed<T>(list: (chats: ReadonlyMap<string, ChatView>, me: OperatorView) => T[]): T[] {
  const me = useMe();
  return useChats(useShallow((s) => list(s.chats, me)));
}

/** Returns the ids of my chats in the order of their lane numbers, with those just ended. */
export function useMyIds(): string[] {
  const numbers = useWindows((s) => s.lanes.numbers);
  return useListed((chats, me) => idsOf(mine(chats, me, numbers)));
}

/** Reports whether a chat is with me. */
export function useIsMine(chat: ChatView): boolean {
  return isMine(chat, useMe());
}

/** Returns the ids of chats. */
export function idsOf(chats: ChatView[]): string[] {
  return chats.map((c) => c.id);
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

/**
 * When the clocks inside stand still, as they do in a long list while somebody scrolls it:
 * nobody reads them then, and drawing them all anew would make it stutter.
 */
export const StandingClock = createContext<{ readonly current: number | undefined }>({ current: undefined });

/** Returns what follows from the server's time; it is drawn anew only when that changes. */
export function useAt<T extends string | number | boolean>(select: (now: number) => T): T {
  const store = useDeskStore();
  const standing = use(StandingClock);
  return useSyncExternalStore(everySecond, () => select(standing.current ?? secondOf(store.now())));
}

/** Returns the second that a time is in, both in milliseconds. */
export function secondOf(time: number): number {
  return Math.floor(time / 1000) * 1000;
}

/** Returns the server's time, anew each second. */
export function useNow(): number {
  return useAt((now) => now);
}
