import { clock } from "../../shared/format";
import type { ChatView, EventView } from "../../shared/types";
import { showDesktopNotice } from "./desktop";
import { playArrival, playMessage, unlockSound } from "./sounds";

const plainTitle = "Stoop";

/**
 * Makes sure that nobody misses a chat: by sound, in the title of the tab and
 * on the desktop. With several tabs open only one of them makes itself heard.
 */
export class Notices {
  private speaks = false;

  constructor() {
    unlockSound();
    if ("locks" in navigator) {
      // Whoever holds the lock speaks; when that tab closes, the next one gets it.
      void navigator.locks.request("stoop-notices", () => {
        this.speaks = true;
        return new Promise<void>((resolve) => addEventListener("pagehide", () => resolve(), { once: true }));
      });
    } else {
      this.speaks = true;
    }
  }

  /** A chat arrived that nobody has taken. */
  arrived(chat: ChatView, available: boolean): void {
    if (!available || !this.speaks) return;
    playArrival();
    showDesktopNotice(`${chat.name || "A visitor"} is waiting`, chat.lastWords, `chat-${chat.id}`);
  }

  /** The visitor of one of my chats wrote something that I may not be looking at. */
  spoke(chat: ChatView, event: EventView, looking: boolean): void {
    if (looking || !this.speaks) return;
    playMessage();
    if (document.hidden) showDesktopNotice(chat.name || "Visitor", event.text ?? "", `chat-${chat.id}`);
  }

  /** Puts into the tab's title what waits for me. */
  title(waiting: ChatView[], unseen: number, now: number): void {
    const longest = waiting.length > 0 ? now - Math.min(...waiting.map((c) => Date.parse(c.since))) : 0;
    const parts: string[] = [];
    if (waiting.length > 0) parts.push(`${waiting.length} waiting ${clock(longest)}`);
    if (unseen > 0) parts.push(`${unseen} new`);
    const title = parts.length > 0 ? `${parts.join(", ")} · ${plainTitle}` : plainTitle;
    if (document.title !== title) document.title = title;
  }
}
