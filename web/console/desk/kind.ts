import type { EventView } from "../../shared/types";
import type { Icons } from "../icons";

/** An event as it is told, with what people wrote kept apart from the sentences around it. */
export interface Told {
  event: EventView;
  /** I did it. */
  mine: boolean;
  /** Who did it. */
  who: string;
  /** To whom it was done: a person or a department. */
  to: string;
  /** Why, in words that follow in brackets; empty for no reason. */
  why: string;
  /** What the visitor is called. */
  visitor: string;
  /** When the chat began; empty where the helper spoke, since the wait for a person began at another time. */
  startedAt: string;
}

/** How one kind of event looks in a script and in a transcript. */
export interface Kind {
  /** A bubble of words, an aside to the team, a line about what happened, or nothing of its own. */
  look: "words" | "aside" | "line" | "beside";
  icon?: keyof typeof Icons;
  /** The line, or what stands over an aside. */
  words?: (told: Told) => string;
  /** Whether a single event is shown; all are if it is left out. */
  shows?: (event: EventView) => boolean;
  /** Its text is a note to the team, which stands beneath the line. */
  note?: boolean;
}

/** A kind that is told in a line. */
export function kind(icon: keyof typeof Icons, words: (told: Told) => string, note = false): Kind {
  return { look: "line", icon, words, note };
}
