import { useEffect, useSyncExternalStore } from "react";

import { apart } from "../../shared/apart";
import type { EventView } from "../../shared/types";
import { laterModule } from "../kit/later";
import type { Kind, Told } from "./kind";
import { reasonWords } from "./reasons";

// A kind of event is one file: whatever lies in the folders is known.
const files = import.meta.glob<Kind>("./kinds/*.ts", { eager: true, import: "default" });
let kinds = named(files);

function named(list: Record<string, Kind>): Map<string, Kind> {
  return new Map(
    Object.entries(list).map(([path, kind]) => [path.replace(/^.*\/|\.ts$/g, ""), kind] as const),
  );
}

// Those that are seldom on the first screen come right after it, all at once.
const listeners = new Set<() => void>();
let coming: Promise<void> | undefined;

/** Loads the kinds that come after the first screen, once. */
export function laterKinds(): Promise<void> {
  coming ??= laterModule(() => import("./kinds-later")).then(
    (later) => {
      kinds = new Map([...kinds, ...named(later.files)]);
      for (const listener of listeners) listener();
    },
    (error: unknown) => {
      coming = undefined; // tried again with the next script
      throw error;
    },
  );
  return coming;
}

/** Returns the kinds that are known, and draws anew when more are; what is not known yet has no place. */
export function useKinds(): ReadonlyMap<string, Kind> {
  useEffect(() => {
    laterKinds().catch(() => undefined); // the next script tries again
  }, []);
  return useSyncExternalStore(listen, () => kinds);
}

function listen(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** What is shown of a kind that this page does not know: nothing. The server may be newer. */
const unknown: Kind = { look: "beside" };

/** Returns how a kind of event looks. */
export function kindOf(event: EventView): Kind {
  return kinds.get(event.kind) ?? unknown;
}

/** Reports whether an event has a place in a script. */
export function isShown(event: EventView): boolean {
  const { look, shows } = kindOf(event);
  return look !== "beside" && (shows?.(event) ?? true);
}

/** The names of all kinds that have a look. */
export const kindNames = (): string[] => [...kinds.keys()];

/** Puts an event into words by its kind; empty for one that has none. */
export function wordsOf(
  of: EventView,
  { startedAt, meId, visitor }: { startedAt: string; meId: string; visitor: string },
): string {
  const event = kept(of);
  const told: Told = {
    event,
    mine: event.side === "team" && event.by === meId,
    who: event.name,
    to: event.to ?? "",
    why: reasonWords(event.reasons ?? []),
    visitor: apart(visitor),
    startedAt,
  };
  return kindOf(event).words?.(told) ?? "";
}

// What people wrote, each kept apart from the sentence around it.
function kept(event: EventView): EventView {
  return {
    ...event,
    name: apart(event.name),
    to: event.to && apart(event.to),
    tag: event.tag && apart(event.tag),
    text: event.text && apart(event.text),
    outcome: event.outcome && apart(event.outcome),
  };
}
