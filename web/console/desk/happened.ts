import { clock, firstName } from "../../shared/format";
import type { ChatView, EventView } from "../../shared/types";
import type { Icons } from "../icons";
import { reasonWords } from "./reasons";

/** A line about what happened, and the icon before it. */
export interface Happened {
  icon: keyof typeof Icons;
  words: string;
}

/** Puts into words how a chat passed between people; nothing for what stands elsewhere. */
export function happenedWords(event: EventView, chat: ChatView, meId: string): Happened | null {
  const mine = event.side === "team" && event.by === meId;
  const who = mine ? "You" : event.name;
  const why = reasonWords(event.reasons ?? []);
  switch (event.kind) {
    case "routed":
      return {
        icon: "Sign",
        words: `${event.live ? "Became a live chat for" : "Went to"} ${event.to || "the team"}${why ? `: ${why}` : ""}`,
      };
    case "overflowed":
      return { icon: "Sign", words: `${event.to} may take it too: ${why}` };
    case "offered":
      return { icon: "Hourglass", words: `Offered to ${event.to}${why ? `: ${why}` : ""}` };
    case "passed":
      return {
        icon: "Hourglass",
        words:
          event.why === "unanswered" ? `${event.to} did not answer the offer` : `${event.to} let it pass`,
      };
    case "taken":
      return event.how === "assigned"
        ? { icon: "Check", words: `${who} got this chat${why ? `: ${why}` : ""}` }
        : {
            icon: "Check",
            words: `${who} took this chat after ${clock(Date.parse(event.at) - Date.parse(chat.startedAt))}`,
          };
    case "handed-on":
      return { icon: "Passing", words: `${who} offered it to ${event.to}` };
    case "returned":
      return { icon: "Back", words: returnedWords(event, who) };
    case "put-back":
      return {
        icon: "Back",
        words:
          event.why === "owner-gone"
            ? `${event.to} lost the connection and did not return: back in the queue`
            : `${who} put it back into the queue`,
      };
    case "kept":
      return {
        icon: "Letter",
        words:
          event.side === "house"
            ? "Kept as a message: the team closed"
            : "The visitor left it as a message instead of waiting",
      };
    case "joined":
      return { icon: "Person", words: `${who} added ${event.to}` };
    case "left":
      return {
        icon: "Person",
        words: event.name === event.to ? `${event.to} left` : `${who} took ${event.to} out`,
      };
    case "wrapped-up":
      return { icon: "Check", words: "Wrap-up done" };
    default:
      return null; // receipts stand beside the words
  }
}

function returnedWords(event: EventView, who: string): string {
  switch (event.why) {
    case "declined":
      return `${who} could not take it: back with ${event.to}`;
    case "taken-back":
      return `${who} took it back`;
    default:
      return `Nobody took it there: back with ${event.to}`;
  }
}

/** Says who ended a chat. */
export function endedWords(event: EventView, mine: boolean): string {
  if (event.side === "visitor") return `${firstName(event.name)} ended the chat`;
  if (event.side === "house") return "The visitor left and did not return: missed";
  return `${mine ? "You" : event.name} ended the chat`;
}
