import type { WidgetView } from "../../shared/types";

/** Words of the team to a visitor who has not written. */
export interface Invitation {
  id: string;
  text: string;
  name: string;
  department?: string;
}

/** What the page around the panel tells it. */
export interface HostMessage {
  stoop?: number;
  kind?: "page" | "shown" | "kept" | "now" | "widget" | "chat" | "invited" | "along";
  page?: { url: string; title: string; shown?: string; along?: string };
  /** An invitation to which the visitor said yes. */
  invitation?: Invitation;
  shown?: boolean;
  /** Its scripts take what is put in the basket from a card. */
  takes?: boolean;
  /** The visitor asked for it, so the focus may move. */
  byHand?: boolean;
  /** A part of what is seen while somebody looks along, or its end. */
  part?: { of: string; part: number; data: string; more: boolean };
  end?: boolean;
  /** Whether the team is there. */
  state?: WidgetView["now"];
  /** What was kept for the panel, and whether it outlasts the page. */
  items?: Record<string, string>;
  lasts?: boolean;
  /** The panel is not wanted yet: until it is shown, nothing is asked of the server. */
  waits?: boolean;
}

/** Whether a page holds the panel in a frame. */
export const framed = window.parent !== window;

// Where the page around is from. What only it may know is told to nobody else:
// the address is that of its first answer, and only sites of the widget may hold
// this panel in a frame, which the server's content policy enforces.
let hostOrigin = "";

/** Calls listener for what the page around says; returns how to stop. */
export function listenToHost(listener: (message: HostMessage) => void): () => void {
  const onMessage = (event: MessageEvent) => {
    const data = event.data as HostMessage | null;
    if (!framed || event.source !== window.parent || data?.stoop !== 1) return;
    if (hostOrigin && event.origin !== hostOrigin) return;
    hostOrigin = event.origin;
    listener(data);
  };
  addEventListener("message", onMessage);
  return () => removeEventListener("message", onMessage);
}

/** Tells the page around something that others may know as well. */
export function tellHost(message: object): void {
  if (framed) window.parent.postMessage({ stoop: 1, ...message }, "*");
}

/** Tells the page around what only it may know. Nothing is told before it has spoken. */
export function confide(message: object): void {
  if (framed && hostOrigin) window.parent.postMessage({ stoop: 1, ...message }, hostOrigin);
}
