// What a visitor types and has not sent: kept so that it outlasts the page.

/** Where the draft of a visitor's next message is kept. */
export function draftKey(widgetKey: string): string {
  return `stoop.${widgetKey}.draft`;
}

/** What is typed into the form before a chat. */
export interface StartDraft {
  name: string;
  email: string;
  phone?: string;
  text: string;
  answers?: Record<string, string>;
}

/** Where the draft of the form before a chat is kept. */
export function startKey(widgetKey: string): string {
  return `stoop.${widgetKey}.start`;
}

/** Nothing typed yet. */
export const noDraft: StartDraft = { name: "", email: "", text: "" };
