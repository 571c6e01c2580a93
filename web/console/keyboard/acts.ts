/** Everything that can be done by a key or from the palette, by name. */
export interface Act {
  id: string;
  /** What it does, as a verb. */
  words: string;
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
  words: string,
  code: string,
  hint = `Alt ${code.replace(/^(Key|Digit)/, "")}`,
): Act => ({ id, group, words, code, hint });
const altShift = (id: string, group: Act["group"], words: string, code: string, hint: string): Act => ({
  id,
  group,
  words,
  code,
  hint,
  shift: true,
});

/** All acts in the order of the help sheet. */
export const acts: readonly Act[] = [
  alt("take-next", "Line", "Take the next waiting chat", "KeyN"),
  alt("take-offer", "Line", "Take the chat that is offered to me", "KeyY"),
  altShift("pass-offer", "Line", "Pass on the offer", "KeyY", "Alt Shift Y"),
  alt("help-team", "Line", "Join a colleague asking for help", "KeyJ"),
  { id: "lane-number", group: "Lane", words: "Go to the lane with that number", hint: "Alt 1 to 9" },
  alt("next-lane", "Lane", "Go to the next lane", "Period", "Alt ."),
  alt("previous-lane", "Lane", "Go to the previous lane", "Comma", "Alt ,"),
  altShift("lane-right", "Lane", "Move the lane right", "Period", "Alt Shift ."),
  altShift("lane-left", "Lane", "Move the lane left", "Comma", "Alt Shift ,"),
  alt("alone", "Lane", "Show only this lane, or all lanes", "KeyO"),
  alt("window", "Lane", "Open the lane in its own window", "KeyW"),
  alt("close-lane", "Lane", "Close the lane; the chat stays in the line", "KeyX"),
  alt("unread", "Lane", "Mark unread, or read", "KeyU"),
  alt("about", "Lane", "Show or hide About", "KeyI"),
  alt("hand-on", "Lane", "Hand the chat on", "KeyG"),
  alt("colleague", "Lane", "Add a colleague", "KeyC"),
  alt("ask-team", "Lane", "Ask the team for help", "KeyK"),
  alt("put-back", "Lane", "Put the chat back in the queue", "KeyP"),
  alt("end", "Lane", "End the chat", "KeyQ"),
  alt("ban", "Lane", "Ban the visitor", "KeyZ", "Alt Z"),
  { id: "send", group: "Writing", words: "Send", hint: "Enter" },
  { id: "new-line", group: "Writing", words: "Start a new line", hint: "Shift Enter" },
  { id: "canned", group: "Writing", words: "List canned responses", hint: ";" },
  { id: "insert", group: "Writing", words: "Insert the highlighted response", hint: "Tab" },
  { id: "leave", group: "Writing", words: "Hide the suggestions and keep your text", hint: "Esc" },
  {
    id: "correct",
    group: "Writing",
    words: "Correct your last message (when the field is empty)",
    hint: "↑",
  },
  alt("note", "Writing", "Switch between note and reply", "KeyM"),
  alt("attach", "Writing", "Attach files", "KeyL"),
  alt("emoji", "Writing", "Insert an emoji", "Semicolon", "Alt ;"),
  alt("voice", "Writing", "Record a voice message", "KeyR"),
  {
    id: "palette",
    group: "Everywhere",
    words: "Find anything: actions, people, chats, articles",
    hint: "Ctrl K",
  },
  alt("help", "Everywhere", "Show keyboard shortcuts", "Slash", "Alt /"),
  alt("availability", "Everywhere", "Switch between available and away", "KeyA"),
  alt("talk", "Everywhere", "Open or close the team talk", "Digit0"),
  { id: "notifications", group: "Everywhere", words: "Sounds and notifications" },
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
