import { apart } from "../../shared/apart";
import { clock, firstName, money } from "../../shared/format";
import type { EventView } from "../../shared/types";
import type { Icons } from "../icons";
import { reasonWords } from "./reasons";

/** A line about what happened, and the icon before it. */
export interface Happened {
  icon: keyof typeof Icons;
  words: string;
}

/** Puts into words how a chat passed between people; nothing for what stands elsewhere. */
export function happenedWords(of: EventView, startedAt: string, meId: string): Happened | null {
  const event = kept(of);
  const mine = event.side === "team" && event.by === meId;
  const who = mine ? "You" : event.name;
  const why = reasonWords(event.reasons ?? []);
  switch (event.kind) {
    case "routed":
      return {
        icon: "Sign",
        words: event.live
          ? `Became a live chat for ${event.to || "the team"}${why ? ` (${why})` : ""}`
          : `Sent to ${event.to || "the team"}${why ? ` (${why})` : ""}`,
      };
    case "overflowed":
      return { icon: "Sign", words: `Also open to ${event.to} (${why})` };
    case "offered":
      return { icon: "Hourglass", words: `Offered to ${event.to}${why ? ` (${why})` : ""}` };
    case "passed":
      return {
        icon: "Hourglass",
        words: event.why === "unanswered" ? `${event.to} did not answer the offer` : `${event.to} passed`,
      };
    case "taken":
      if (event.how === "took-over")
        return { icon: "Passing", words: `${who} took over the chat from ${event.to}` };
      return event.how === "assigned"
        ? { icon: "Check", words: `Assigned to ${mine ? "you" : who}${why ? ` (${why})` : ""}` }
        : {
            icon: "Check",
            words: `${who} took this chat after ${clock(Date.parse(event.at) - Date.parse(startedAt))}`,
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
            ? `${event.to} lost the connection and did not return. Back in the queue`
            : `${who} put it back into the queue`,
      };
    case "kept":
      return {
        icon: "Letter",
        words:
          event.side === "house"
            ? "Became a message: the team is closed"
            : "The visitor left a message instead of waiting",
      };
    case "joined":
      if (event.how === "stepped-in") return { icon: "Person", words: `${who} stepped in` };
      if (event.how === "answering") return { icon: "Ring", words: `${who} came to help` };
      return { icon: "Person", words: `${who} added ${event.to}` };
    case "left":
      return {
        icon: "Person",
        words: event.name === event.to ? `${event.to} left` : `${who} removed ${event.to}`,
      };
    case "called":
      return { icon: "Ring", words: `${who} asked ${event.to} for help` };
    case "call-over":
      return { icon: "Ring", words: `${who} no longer asks for help` };
    case "watched":
      return { icon: "Eye", words: `${who} started watching` };
    case "unwatched":
      return { icon: "Eye", words: `${who} stopped watching` };
    case "tagged":
      return { icon: "Tag", words: `${who} added the tag ${event.tag}` };
    case "untagged":
      return { icon: "Tag", words: `${who} removed the tag ${event.tag}` };
    case "summarised":
      return { icon: "Note", words: event.text ? `Summary: ${event.text}` : `${who} removed the summary` };
    case "concluded":
      return {
        icon: "Check",
        words: `Outcome: ${event.outcome || "none"}${event.sale ? `, ${money(event.sale)}` : ""}`,
      };
    case "named":
      return { icon: "Pencil", words: `${who} updated the contact` };
    case "reminded":
      return { icon: "Hourglass", words: "The visitor was told the chat is about to end" };
    case "wrapped-up":
      return { icon: "Check", words: "Wrap-up done" };
    default:
      return null; // receipts stand beside the words
  }
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

function returnedWords(event: EventView, who: string): string {
  switch (event.why) {
    case "declined":
      return `${who} could not take it. Back with ${event.to}`;
    case "taken-back":
      return `${who} took it back`;
    default:
      return `Nobody took it. Back with ${event.to}`;
  }
}

/** Says who ended a chat. */
export function endedWords(event: EventView, mine: boolean): string {
  if (event.side === "visitor") return `${apart(firstName(event.name))} ended the chat`;
  if (event.why === "silent") return "Ended automatically: the visitor wrote nothing more";
  if (event.why === "banned") return `${mine ? "You" : apart(event.name)} banned the visitor`;
  if (event.side === "house") return "The visitor left and did not return: missed";
  return `${mine ? "You" : apart(event.name)} ended the chat`;
}
