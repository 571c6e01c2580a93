import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from "react";

import { keep, keepJSON, kept, keptJSON, keptUnder, onKept } from "../../shared/storage";
import { useTeam } from "../desk/provider";

/** What is being edited of something that is stored. */
export interface Editing<T> {
  /** What the form shows. */
  value: T;
  changed: boolean;
  /** What is stored now, when a colleague stored it since the editing began. */
  theirs: T | undefined;
  change: (part: Partial<T>) => void;
  /** Forgets what was typed: the form shows what is stored. */
  undo: () => void;
  /** Goes on with what was typed, over what the colleague stored. */
  keepMine: () => void;
  /**
   * What this told is stored now: the form shows that until it is read again, with what
   * was typed since. What was new is edited under a name of its own from now on.
   */
  saved: (value: T, as?: string) => void;
}

interface Kept<T> {
  /** What was stored when the editing began. */
  base: T;
  value: T;
  /** When it was last changed, in milliseconds. */
  at: number;
}

/** What tells whether a thing was stored since it was read; some things have nothing. */
function versionOf(thing: object): { version?: unknown } {
  return "version" in thing ? { version: thing.version } : {};
}

/** Returns the parts of a thing that were changed since it was sent. */
function changedSince<T extends object>(sent: T, now: T): Partial<T> {
  const names = Object.keys(now) as (keyof T)[];
  const changed = names.filter((name) => JSON.stringify(now[name]) !== JSON.stringify(sent[name]));
  return Object.fromEntries(changed.map((name) => [name, now[name]])) as Partial<T>;
}

const prefix = (operatorId: string) => `stoop.edit.${operatorId}.`;

/**
 * Edits something that is stored, under a name of its own for each thing. What
 * is typed is kept in the browser until it is saved or undone: it outlasts the
 * turn to a chat, another item of the list, a colleague's saving and a reload.
 * Whoever uses it gives its component the name as key.
 */
export function useEditing<T extends object>(name: string, stored: T): Editing<T> {
  const mine = prefix(useTeam((s) => s.me.id));
  const keptAs = mine + name;
  const [edit, setEdit] = useState<Kept<T> | undefined>(() => {
    const found = keptJSON<Kept<T> | undefined>(keptAs, undefined);
    // It may have been written when forms had fewer fields.
    return found && { ...found, value: { ...stored, ...found.value } };
  });
  // What was saved here, until it is read again.
  const [last, setLast] = useState<{ value: T; over: T } | undefined>();
  const newest = last?.over === stored ? last.value : stored;

  useEffect(() => {
    if (edit) keepJSON(keptAs, edit);
    else keep(keptAs, null);
  }, [edit, keptAs]);

  const change = useCallback(
    (part: Partial<T>) =>
      setEdit((before) => {
        const base = before?.base ?? newest;
        const value = { ...(before?.value ?? newest), ...part };
        return JSON.stringify(value) === JSON.stringify(base) ? undefined : { base, value, at: Date.now() };
      }),
    [newest],
  );
  const undo = useCallback(() => setEdit(undefined), []);
  const keepMine = () => {
    if (edit) setEdit({ ...edit, base: newest, value: { ...edit.value, ...versionOf(newest) } });
  };
  const saved = (value: T, as = name) => {
    setLast({ value, over: stored });
    // What was typed while this was on its way is not stored yet. It is read where it is
    // kept: who has turned to something else meanwhile has no form any more.
    const now = keptJSON<Kept<T> | undefined>(keptAs, undefined);
    const typed = now ? changedSince(edit?.value ?? newest, now.value) : {};
    const rest = { base: value, value: { ...value, ...typed }, at: now?.at ?? 0 };
    const some = Object.keys(typed).length > 0;
    if (!some || as !== name) keep(keptAs, null);
    if (some) keepJSON(mine + as, rest);
    setEdit(some && as === name ? rest : undefined);
  };
  return {
    value: edit?.value ?? newest,
    changed: edit !== undefined,
    theirs: edit && versionOf(newest).version !== versionOf(edit.base).version ? newest : undefined,
    change,
    undo,
    keepMine,
    saved,
  };
}

/** Tells which things of a kind are being edited and not saved yet, by what follows the kind in their names. */
export function useEdited(kind: string): ReadonlySet<string> {
  const start = `${prefix(useTeam((s) => s.me.id))}${kind}.`;
  const names = useSyncExternalStore(onKept, () =>
    [...keptUnder(start).keys()].map((key) => key.slice(start.length)).join("\n"),
  );
  return new Set(names.split("\n").filter(Boolean));
}

/** What is being edited and not saved yet, by the names under which it is. */
export interface Unsaved {
  name: string;
  value: unknown;
}

/** Returns what is being edited under some names, or under names that begin so and go on with a point. */
export function useUnsaved(names: readonly string[]): Unsaved[] {
  const start = prefix(useTeam((s) => s.me.id));
  const text = useSyncExternalStore(onKept, () =>
    JSON.stringify(
      [...keptUnder(start)]
        .map(([key, json]) => [key.slice(start.length), json] as const)
        .filter(([name]) => names.some((n) => name === n || name.startsWith(`${n}.`)))
        .sort(([a], [b]) => a.localeCompare(b)),
    ),
  );
  return useMemo(() => {
    const found = JSON.parse(text) as [string, string][];
    return found.flatMap(([name, json]) => {
      try {
        return [{ name, value: (JSON.parse(json) as Kept<unknown>).value }];
      } catch {
        return []; // it is nothing of ours
      }
    });
  }, [text]);
}

/**
 * Saves what was being edited of a thing that a colleague deleted: it becomes
 * what is being written anew, unless something is already. The list must be
 * whole; it tells which things there were, and when it was read.
 */
export function useGone<T extends object>(
  kind: string,
  list: { ids: readonly string[]; at: number } | undefined,
  fresh: T,
  tell: (id: string, value: T) => void,
): void {
  const start = `${prefix(useTeam((s) => s.me.id))}${kind}.`;
  useEffect(() => {
    if (!list) return;
    for (const key of keptUnder(start).keys()) {
      const id = key.slice(start.length);
      const edit = keptJSON<Kept<T> | undefined>(key, undefined);
      if (!edit || id === "new" || list.ids.includes(id)) continue;
      // Another tab may have made it after this list was read.
      if (edit.at > list.at || kept(`${start}new`) !== null) continue;
      keep(key, null);
      const value = { ...edit.value, ...versionOf(fresh), id: undefined };
      keepJSON(`${start}new`, { base: fresh, value, at: edit.at });
      tell(id, edit.value);
    }
  });
}

/**
 * Begins something new of a kind with what is known of it already, to be gone on with in its
 * form. Returns false when something new is being written already, which is left alone.
 */
export function useBeginNew<T extends object>(kind: string, fresh: T): (part: Partial<T>) => boolean {
  const name = `${prefix(useTeam((s) => s.me.id))}${kind}.new`;
  return (part) => {
    if (kept(name) !== null) return false;
    keepJSON(name, { base: fresh, value: { ...fresh, ...part }, at: Date.now() });
    return true;
  };
}
