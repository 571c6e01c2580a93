import { confide, framed } from "../host";

/**
 * Lets the visitor's tab go to a page; shown marks the tab as the one that what is shown is in,
 * or as none any more. Where the panel is a page by itself, a new tab goes there.
 */
export function goTo(url: string, shown: string | null): void {
  if (framed) confide({ kind: "go", url, shown });
  else window.open(url, "_blank", "noopener");
}

/** What a tab is marked with. */
export function markOf(chatId: string | undefined, number: number): string {
  return `${chatId ?? ""}.${number}`;
}
