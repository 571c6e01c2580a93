import {
  cloneElement,
  lazy,
  useEffect,
  useSyncExternalStore,
  type FocusEvent,
  type PointerEvent,
  type ReactElement,
} from "react";

import { hintOf } from "../keyboard/acts";
import { Lazily } from "./lazily";

interface Props {
  /** What it does. */
  words: string;
  /** The act whose key is told with it. */
  act?: string;
  children: ReactElement<Record<string, unknown>>;
}

/** A hint that is shown, and what it belongs to. */
export interface ShownHint {
  at: HTMLElement;
  words: string;
}

const pointedFor = 400; // milliseconds
const staysFor = 120; // while the pointer goes from the control to the hint

let shown: ShownHint | undefined;
let timer: ReturnType<typeof setTimeout> | undefined;
const listeners = new Set<() => void>();

function set(hint: ShownHint | undefined): void {
  clearTimeout(timer);
  if (hint === shown) return;
  shown = hint;
  for (const listener of listeners) listener();
}

/** Shows a hint when the pointer has stayed a moment. */
function pointed(hint: ShownHint): void {
  clearTimeout(timer);
  timer = setTimeout(() => set(hint), pointedFor);
}

/** Takes the hint away, a moment later when the pointer may be going to it. */
export function leaveHint(soon = false): void {
  clearTimeout(timer);
  if (soon) timer = setTimeout(() => set(undefined), staysFor);
  else set(undefined);
}

/** Keeps the hint while the pointer is on it. */
export function keepHint(): void {
  clearTimeout(timer);
}

/**
 * Says what a control does and by which key, to the pointer and to the keyboard
 * alike. One hint is shown at a time, by Hints; what draws it comes with the first.
 */
export function Hint({ words, act = "", children }: Props) {
  // The control may go while its hint is shown.
  useEffect(
    () => () => {
      if (shown && !shown.at.isConnected) leaveHint();
    },
    [],
  );
  const key = hintOf(act);
  const hint = key ? `${words} (${key})` : words;
  return cloneElement(children, {
    "aria-description": hint === children.props["aria-label"] ? undefined : hint,
    onPointerEnter: (event: PointerEvent<HTMLElement>) => {
      const at = event.currentTarget;
      pointed({ at, words: hint });
    },
    onPointerLeave: () => leaveHint(true),
    onFocus: (event: FocusEvent<HTMLElement>) => {
      if (event.currentTarget.matches(":focus-visible")) set({ at: event.currentTarget, words: hint });
    },
    onBlur: () => leaveHint(),
    onPointerDown: () => leaveHint(),
  });
}

const Shown = lazy(() => import("./hint-shown"));

/** The place where hints are shown. */
export function Hints() {
  const hint = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => shown,
  );
  return <Lazily>{hint?.at.isConnected ? <Shown hint={hint} /> : null}</Lazily>;
}
