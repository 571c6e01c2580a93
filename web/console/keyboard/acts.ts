/** Everything that can be done by a key or from the palette, by name. */
export interface Act {
  id: string;
  group: "Line" | "Lane" | "Writing" | "Everywhere";
  /** The physical key, together with Alt: the same place on every layout. */
  code?: string;
  /** With Shift besides. */
  shift?: boolean;
  /** What is written on key hints. */
  hint?: string;
  /** For keys that are not held with Alt. */
  plain?: boolean;
}

// Alt and a key: no browser and no screen reader takes these by itself. Left out
// are B, D, E, F, H, S, T, V, Space and the arrows (address bar, menus, back).
// On a Mac that key types characters, so there it is Control and Shift.
const alt = (
  id: string,
  group: Act["group"],
  code: string,
  hint = `Alt ${code.replace(/^(Key|Digit)/, "")}`,
): Act => ({ id, group, code, hint });
const altShift = (id: string, group: Act["group"], code: string, hint: string): Act => ({
  id,
  group,
  code,
  hint,
  shift: true,
});

/** All acts in the order of the help sheet. */
export const acts: readonly Act[] = [
  alt("take-next", "Line", "KeyN"),
  alt("take-offer", "Line", "KeyY"),
  altShift("pass-offer", "Line", "KeyY", "Alt Shift Y"),
  alt("help-team", "Line", "KeyJ"),
  { id: "lane-number", group: "Lane", hint: "Alt 1 to 9" },
  alt("next-lane", "Lane", "Period", "Alt ."),
  alt("previous-lane", "Lane", "Comma", "Alt ,"),
  altShift("lane-right", "Lane", "Period", "Alt Shift ."),
  altShift("lane-left", "Lane", "Comma", "Alt Shift ,"),
  alt("alone", "Lane", "KeyO"),
  alt("window", "Lane", "KeyW"),
  alt("close-lane", "Lane", "KeyX"),
  alt("unread", "Lane", "KeyU"),
  alt("about", "Lane", "KeyI"),
  alt("hand-on", "Lane", "KeyG"),
  alt("colleague", "Lane", "KeyC"),
  alt("ask-team", "Lane", "KeyK"),
  alt("put-back", "Lane", "KeyP"),
  altShift("ticket", "Lane", "KeyK", "Alt Shift K"),
  alt("end", "Lane", "KeyQ"),
  alt("ban", "Lane", "KeyZ", "Alt Z"),
  { id: "send", group: "Writing", hint: "Enter" },
  { id: "new-line", group: "Writing", hint: "Shift Enter" },
  { id: "canned", group: "Writing", hint: ";" },
  { id: "insert", group: "Writing", hint: "Tab" },
  { id: "leave", group: "Writing", hint: "Esc" },
  {
    id: "correct",
    group: "Writing",
    hint: "↑",
  },
  alt("note", "Writing", "KeyM"),
  alt("attach", "Writing", "KeyL"),
  alt("emoji", "Writing", "Semicolon", "Alt ;"),
  alt("voice", "Writing", "KeyR"),
  {
    id: "palette",
    group: "Everywhere",
    hint: "Ctrl K",
  },
  alt("help", "Everywhere", "Slash", "Alt /"),
  alt("availability", "Everywhere", "KeyA"),
  alt("talk", "Everywhere", "Digit0"),
  { id: "notifications", group: "Everywhere" },
];

const mac = /Mac|iPhone|iPad/.test(navigator.platform);

/** Returns the key hint of an act, or nothing. */
export function hintOf(id: string, onMac = mac): string {
  const hint = acts.find((a) => a.id === id)?.hint ?? "";
  return onMac ? hint.replace("Alt Shift ", "⌃⌥⇧").replace("Alt ", "⌃⇧").replace("Ctrl ", "⌘") : hint;
}

/** Reports whether the keys that call acts are held. AltGr types a character and calls none. */
export function holds(event: KeyboardEvent, onMac = mac): boolean {
  if (event.metaKey || event.getModifierState("AltGraph")) return false;
  return onMac ? event.ctrlKey && event.shiftKey : event.altKey && !event.ctrlKey;
}

/** Returns the act that a key calls, if any. */
export function actOf(event: KeyboardEvent, onMac = mac): Act | undefined {
  if (event.isComposing) return undefined;
  if (
    (event.ctrlKey || event.metaKey) &&
    !event.altKey &&
    !event.shiftKey &&
    event.key.toLowerCase() === "k"
  ) {
    return acts.find((a) => a.id === "palette");
  }
  if (!holds(event, onMac)) return undefined;
  const more = onMac ? event.altKey : event.shiftKey;
  return acts.find((a) => a.code === event.code && (a.shift ?? false) === more);
}
