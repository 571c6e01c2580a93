import { emptyLog } from "../../../shared/log";
import type { EventView, VisitorChatView } from "../../../shared/types";
import { atFirst, type PanelState } from "../state";
import { type Look, widgetIn } from "./look";

/** Returns what the panel shows in a scene. */
export function stateIn(look: Look, now: number): PanelState {
  const { scene, sample } = look;
  const base: PanelState = { ...atFirst, widget: widgetIn(look), connection: "live" };
  if (scene === "invitation")
    return { ...base, invitation: { id: "preview", text: sample.invitation, name: sample.operator } };
  if (scene === "form" || scene === "offline") return { ...base, starting: true };
  if (scene !== "waiting" && scene !== "chat" && scene !== "ended") return base;
  const events = eventsIn(look, now);
  const marks = { delivered: events.length, seen: events.length };
  const chat = {
    id: "preview",
    phase: scene === "waiting" ? "waiting" : scene === "chat" ? "active" : "ended",
    message: false,
    email: "",
    wait: { place: 2, known: true, estimateSeconds: 150 },
    ownerName: scene === "waiting" ? "" : sample.operator,
    last: events.length,
    startedAt: at(now, 95),
    unseen: 0,
    byVisitor: marks,
    byTeam: marks,
    ...(scene === "ended" ? { survey: {} } : {}),
  } as unknown as VisitorChatView;
  return { ...base, chat, log: { ...emptyLog, events, last: events.length }, name: sample.visitor };
}

const at = (now: number, secondsAgo: number) => new Date(now - secondsAgo * 1000).toISOString();

function eventsIn({ scene, sample }: Look, now: number): EventView[] {
  const event = (number: number, ago: number, part: Partial<EventView>) =>
    ({ number, at: at(now, ago), by: "", name: "", kind: "said", side: "visitor", ...part }) as EventView;
  const events = [
    event(1, 95, { kind: "started" }),
    event(2, 95, { text: sample.question, name: sample.visitor }),
  ];
  if (scene === "waiting") return events;
  events.push(
    event(3, 60, { kind: "taken", side: "team", name: sample.operator }),
    event(4, 40, { side: "team", name: sample.operator, text: sample.answer }),
    event(5, 20, { text: sample.thanks, name: sample.visitor }),
  );
  if (scene === "ended") events.push(event(6, 5, { kind: "ended", side: "team", ending: "answered" }));
  return events;
}
