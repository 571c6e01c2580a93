import { useCallback, useEffect, useState, useSyncExternalStore } from "react";

import { keep, keepJSON, keptJSON, keptUnder, onKept } from "../../shared/storage";
import { useDeskPart } from "../desk/provider";

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
  /** What was typed is stored now: the form shows that until it is read again. */
  saved: (value: T) => void;
}

interface Kept<T> {
  base: T;
  value: T;
}

/** What tells whether a thing was stored since it was read; some things have nothing. */
function versionOf(thing: object): { version?: unknown } {
  return "version" in thing ? { version: thing.version } : {};
}

const prefix = (operatorId: string) => `stoop.edit.${operatorId}.`;

/**
 * Edits something that is stored, under a name of its own for each thing. What
 * is typed is kept in the browser until it is saved or undone: it outlasts the
 * turn to a chat, another item of the list, a colleague's saving and a reload.
 * Whoever uses it gives its component the name as key.
 */
export function useEditing<T extends object>(name: string, stored: T): Editing<T> {
  const keptAs = prefix(useDeskPart((s) => s.me.id)) + name;
  const [edit, setEdit] = useState<Kept<T> | undefined>(() => {
    const found = keptJSON<Kept<T> | undefined>(keptAs, undefined);
    // It may have been written when forms had fewer fields.
    return found && { base: found.base, value: { ...stored, ...found.value } };
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
        return JSON.stringify(value) === JSON.stringify(base) ? undefined : { base, value };
      }),
    [newest],
  );
  const undo = useCallback(() => setEdit(undefined), []);
  const keepMine = () => {
    if (edit) setEdit({ base: newest, value: { ...edit.value, ...versionOf(newest) } });
  };
  const saved = (value: T) => {
    setLast({ value, over: stored });
    setEdit(undefined);
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
  const start = `${prefix(useDeskPart((s) => s.me.id))}${kind}.`;
  const names = useSyncExternalStore(onKept, () =>
    [...keptUnder(start).keys()].map((key) => key.slice(start.length)).join("\n"),
  );
  return new Set(names.split("\n").filter(Boolean));
}
