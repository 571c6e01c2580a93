import { uuid } from "./uuid";
import { mayRetry, ProblemError } from "./problem";
import { keep, keepJSON, keptJSON, keptUnder } from "./storage";
import type { Problem } from "./types";

/** A message that the server has not acknowledged yet. */
export interface Unsent {
  clientId: string;
  /** Empty while the visitor's chat has not begun. */
  chatId: string;
  text: string;
  /** When it was written, in milliseconds since 1970. */
  at: number;
  /** What the server will never take as it is; absent while it is being sent. */
  problem?: Problem;
  /** Whatever else the first message carries. */
  extra?: Record<string, unknown>;
}

const longestPause = 8000;

/**
 * Sends messages one after the other and keeps each until the server has
 * acknowledged it, also over a reload. A message may be sent more than once;
 * its client id makes the server count it once.
 */
export class Outbox {
  private messages: Unsent[];
  private sending = false;
  private pause = 500;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly key: string,
    private readonly send: (message: Unsent) => Promise<void>,
    private readonly changed: () => void,
  ) {
    // Each message has an entry of its own, so that two tabs do not overwrite
    // each other's.
    this.messages = [...keptUnder(key).keys()]
      .map((entry) => keptJSON<Unsent | null>(entry, null))
      .filter((m) => m !== null)
      .sort((a, b) => a.at - b.at);
  }

  list(chatId: string): Unsent[] {
    return this.messages.filter((m) => m.chatId === chatId);
  }

  add(chatId: string, text: string, extra?: Record<string, unknown>): Unsent {
    // Two messages of the same millisecond must keep their order over a reload.
    const at = Math.max(Date.now(), (this.messages.at(-1)?.at ?? 0) + 1);
    const message: Unsent = { clientId: uuid(), chatId, text, at };
    if (extra) message.extra = extra;
    keepJSON(this.key + message.clientId, message);
    this.set([...this.messages, message]);
    void this.work();
    return message;
  }

  /** Takes a message out, for writing it anew; returns its text. */
  discard(clientId: string): string {
    const text = this.messages.find((m) => m.clientId === clientId)?.text ?? "";
    this.remove(clientId);
    return text;
  }

  /** Tries now instead of after the pause: the connection is back. */
  wake(): void {
    this.pause = 500;
    clearTimeout(this.timer);
    void this.work();
  }

  private async work(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      for (let next = this.next(); next; next = this.next()) {
        const clientId = next.clientId;
        try {
          await this.send(next);
          this.pause = 500;
          this.remove(clientId);
        } catch (error) {
          if (mayRetry(error)) {
            this.timer = setTimeout(() => void this.work(), this.pause);
            this.pause = Math.min(this.pause * 2, longestPause);
            return;
          }
          const problem = (error as ProblemError).problem;
          this.set(this.messages.map((m) => (m.clientId === clientId ? { ...m, problem } : m)));
        }
      }
    } finally {
      this.sending = false;
    }
  }

  private next(): Unsent | undefined {
    return this.messages.find((m) => !m.problem);
  }

  private remove(clientId: string): void {
    keep(this.key + clientId, null);
    this.set(this.messages.filter((m) => m.clientId !== clientId));
  }

  private set(messages: Unsent[]): void {
    this.messages = messages;
    this.changed();
  }
}
