import { t } from "@lingui/core/macro";
import { clock } from "../../shared/format";
import type { ChatView, EventView, Preferences, TalkView } from "../../shared/types";
import { titleOf } from "../kit/page-title";
import { showDesktopNotice } from "./desktop";
import { arrivals, play, unlockSound, wordSounds } from "./sounds";
import { nameOf } from "../desk/name-of";

// The first ring again comes after this pause, in milliseconds; each further one after twice as long.
const firstPause = 15_000;
const longestPause = 240_000;

/** For what there is a sound. */
export type Sound = "arrival" | "words" | "alert";

/** What holds for who has not chosen. */
export const usual = {
  sound: "steps",
  wordsSound: "knock",
  alertSound: "bell",
  volume: 70,
  desktop: true,
  title: true,
  ringAgain: true,
  mailMessage: false,
  mailAlerts: "never",
} as const;

/**
 * Makes sure that nobody misses a chat: by sound, in the title of the tab and
 * on the desktop, as each operator wants it. With several tabs open only one of
 * them makes itself heard.
 */
export class Notices {
  private speaks = false;
  private wants: Preferences = {};
  private rang = { at: 0, times: 0 };
  private release: () => void = () => undefined;

  constructor() {
    unlockSound();
    if ("locks" in navigator) {
      // Whoever holds the lock speaks; when that tab closes, the next one gets it.
      const held = new Promise<void>((resolve) => {
        this.release = resolve;
        addEventListener("pagehide", () => resolve(), { once: true });
      });
      void navigator.locks.request("stoop-notices", () => {
        this.speaks = true;
        return held;
      });
    } else {
      this.speaks = true;
    }
  }

  /** Takes note of what the operator wants. */
  prefer(wants: Preferences): void {
    this.wants = wants;
  }

  /** Lets another tab speak. */
  close(): void {
    this.speaks = false;
    this.release();
  }

  /** A chat arrived that nobody has taken, or a colleague asks for help in one. */
  arrived(chat: ChatView, available: boolean, help = false): void {
    if (!available || !this.speaks) return;
    this.rang = { at: Date.now(), times: 0 };
    this.sound("arrival");
    const name = chat.name || t`A visitor`;
    const title = help
      ? t`${chat.ownerName ?? t`A colleague`} asks for help with ${name}`
      : t`${name} is waiting`;
    this.notice(title, chat.lastWords, `chat-${chat.id}`);
  }

  /** Rings again, at growing pauses, as long as somebody waits for me. */
  stillWaits(waiting: number, now: number): void {
    if (waiting === 0) {
      this.rang = { at: 0, times: 0 };
      return;
    }
    if (this.rang.at === 0) this.rang = { at: now, times: 0 }; // was there before this tab
    const pause = Math.min(longestPause, firstPause * 2 ** this.rang.times);
    if (now - this.rang.at < pause || !(this.wants.ringAgain ?? usual.ringAgain)) return;
    this.rang = { at: now, times: this.rang.times + 1 };
    if (this.speaks) this.sound("arrival");
  }

  /** The visitor of one of my chats wrote something that I may not be looking at. */
  spoke(chat: ChatView, event: EventView, looking: boolean): void {
    if (looking || !this.speaks) return;
    this.sound("words");
    if (document.hidden) this.notice(nameOf(chat), event.text ?? event.file?.name ?? "", `chat-${chat.id}`);
  }

  /** A colleague wrote in the team talk. */
  talked(message: TalkView): void {
    if (!this.speaks || !document.hidden) return;
    this.notice(t`${message.name}, team talk`, message.text, `room-${message.roomId}`);
  }

  /** A lead is called; also one who takes no chats. */
  called(title: string, body: string, tag: string): void {
    if (!this.speaks) return;
    this.sound("alert");
    this.notice(title, body, tag);
  }

  /** Plays a sound as it would be heard. */
  test(kind: Sound): void {
    this.sound(kind);
  }

  private sound(kind: Sound): void {
    const volume = this.wants.volume ?? usual.volume;
    const chosen =
      kind === "words"
        ? wordSounds[this.wants.wordsSound ?? usual.wordsSound]
        : arrivals[
            kind === "alert" ? (this.wants.alertSound ?? usual.alertSound) : (this.wants.sound ?? usual.sound)
          ];
    if (chosen) play(chosen.tones, volume);
  }

  private notice(title: string, body: string, tag: string): void {
    if (this.wants.desktop ?? usual.desktop) showDesktopNotice(title, body, tag);
  }

  /** Puts into the tab's title what waits for me. */
  title(waiting: ChatView[], unseen: number, now: number): void {
    const longest = waiting.length > 0 ? now - Math.min(...waiting.map((c) => Date.parse(c.since))) : 0;
    const parts: string[] = [];
    if (waiting.length > 0) parts.push(t`${waiting.length} waiting ${clock(longest)}`);
    if (unseen > 0) parts.push(t`${unseen} new`);
    const wanted = this.wants.title ?? usual.title;
    const title = titleOf(wanted ? parts.join(", ") : "");
    if (document.title !== title) document.title = title;
  }
}
