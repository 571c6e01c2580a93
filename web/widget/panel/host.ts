/** What the page around the panel tells it. */
export interface HostMessage {
  stoop?: number;
  kind?: "page" | "shown";
  page?: { visitId: string; url: string; title: string };
  shown?: boolean;
  /** The visitor asked for it, so the focus may move. */
  byHand?: boolean;
}

/** Calls listener for what the page around says; returns how to stop. */
export function listenToHost(listener: (message: HostMessage) => void): () => void {
  const onMessage = (event: MessageEvent) => {
    const data = event.data as HostMessage;
    // Only sites of the widget may hold this panel in a frame, which the
    // server's content policy enforces; other windows have nothing to say.
    if (event.source === window.parent && window.parent !== window && data.stoop === 1) listener(data);
  };
  addEventListener("message", onMessage);
  return () => removeEventListener("message", onMessage);
}

/** Tells the page around something; it holds nothing that others may not know. */
export function tellHost(message: object): void {
  if (window.parent !== window) window.parent.postMessage({ stoop: 1, ...message }, "*");
}
