// A live connection for tests: it does what the test says and keeps what it is
// asked. Used with vi.mock in place of live.ts.
import type { LiveOptions } from "./live";

interface Call {
  method: string;
  data: Record<string, unknown>;
}

export class FakeLive<Message> {
  static last: FakeLive<never>;
  calls: Call[] = [];
  /** Answers a call, or throws. */
  answer: (call: Call) => unknown = () => undefined;

  constructor(readonly options: LiveOptions<Message>) {
    FakeLive.last = this as unknown as FakeLive<never>;
  }

  connect(): void {
    // The test says when the connection is up.
  }

  close(): void {
    // Nothing is open.
  }

  now(): number {
    return Date.now();
  }

  call = async (method: string, data: Record<string, unknown>): Promise<unknown> => {
    this.calls.push({ method, data });
    return this.answer({ method, data });
  };

  /** Plays the server: a message arrives. */
  arrives(message: unknown): void {
    this.options.onMessage(message as Message);
  }

  /** Plays the network: the connection is up. */
  up(): void {
    this.options.onState("live");
    this.options.onUp();
  }

  down(): void {
    this.options.onState("lost");
  }

  /** What was asked under a method. */
  asked(method: string): Record<string, unknown>[] {
    return this.calls.filter((c) => c.method === method).map((c) => c.data);
  }
}
