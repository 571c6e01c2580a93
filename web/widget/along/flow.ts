import { pack, parts } from "./pack";

/** A part of what is seen, on its way to who looks along. */
export interface Part {
  of: string;
  part: number;
  data: string;
  more: boolean;
}

const inFlightMost = 2;
const eventsMost = 3000;
const charactersMost = 2_000_000;
const stalledAfter = 10_000;
const pauseLeast = 1500;
const pauseMost = 12_000;

/** What it needs of the page. */
export interface Source {
  /** Begins to record anew, with the whole page first; returns how to stop. */
  record: (emit: (event: unknown) => void) => () => void;
  /** Takes out of events what may not leave the page. */
  scrub: (events: unknown[]) => unknown[];
  send: (part: Part) => void;
  now: () => number;
}

/**
 * Lets what is recorded out at the pace at which it is received. When more happens on the page
 * than gets through, what happened is forgotten, and after a pause, longer each time, the whole
 * page is sent as it is then: fewer updates, and never a queue that grows.
 */
export class Flow {
  private stop: (() => void) | undefined;
  private pending: unknown[] = [];
  private size = 0;
  private ready: Part[] = [];
  private readonly flying = new Map<number, number>();
  private part = 0;
  private packing = false;
  private resumeAt = 0;
  private pause = pauseLeast;
  private recording = false;
  private ended = false;

  /** What this recording is called: who comes in the middle of one knows that they do. */
  private of = "";
  private recordings = 0;

  constructor(
    private readonly page: string,
    private readonly source: Source,
  ) {}

  /** Begins with the whole page. */
  fresh(): void {
    this.stop?.();
    this.pending = [];
    this.size = 0;
    this.ready = [];
    this.flying.clear();
    this.of = `${this.page}.${++this.recordings}`;
    this.part = 0;
    this.resumeAt = 0;
    this.recording = true;
    this.stop = this.source.record((event) => this.happened(event));
  }

  private happened(event: unknown): void {
    if (!this.recording) return; // what is still told after the stop
    this.pending.push(event);
    // Cheap, and near enough: what a page changes is mostly texts.
    this.size += approximately(event);
    if (this.pending.length > eventsMost || this.size > charactersMost) {
      if (this.whole()) return; // the page itself is large: it goes once
      this.rest();
    }
  }

  private whole(): boolean {
    return this.pending.length <= 3;
  }

  /** Forgets what happened, and rests. */
  private rest(): void {
    this.stop?.();
    this.stop = undefined;
    this.recording = false;
    this.pending = [];
    this.size = 0;
    this.resumeAt = this.source.now() + this.pause;
    this.pause = Math.min(this.pause * 2, pauseMost);
  }

  /** A part has come where one looks along. */
  got(of: string, part: number): void {
    if (of !== this.of) return;
    this.flying.delete(part);
  }

  /** Sends what may go now; called again and again. */
  async tick(): Promise<void> {
    if (this.ended) return;
    const now = this.source.now();
    if (this.resumeAt && now >= this.resumeAt && this.flying.size === 0) this.fresh();
    const oldest = [...this.flying.values()][0];
    if (oldest !== undefined && now - oldest > stalledAfter) {
      // Nobody receives: what was gathered is forgotten, and after a pause it is tried anew.
      this.flying.clear();
      this.ready = [];
      this.rest();
      return;
    }
    if (this.ready.length === 0 && this.pending.length > 0 && !this.packing && this.flying.size === 0) {
      this.packing = true;
      const of = this.of;
      const events = this.source.scrub(this.pending.splice(0));
      this.size = 0;
      try {
        const cut = parts(await pack(events));
        if (this.ended || of !== this.of) return; // the whole page goes instead
        this.ready = cut.map((data, i) => ({
          of,
          part: ++this.part,
          data,
          more: i < cut.length - 1,
        }));
      } finally {
        this.packing = false;
      }
    }
    while (this.flying.size < inFlightMost) {
      const next = this.ready.shift();
      if (!next) break;
      this.flying.set(next.part, now);
      this.source.send(next);
      if (!this.resumeAt && this.ready.length === 0) this.pause = Math.max(pauseLeast, this.pause * 0.9);
    }
  }

  /** Stops for good. */
  end(): void {
    this.ended = true;
    this.recording = false;
    this.stop?.();
    this.stop = undefined;
    this.pending = [];
    this.ready = [];
  }
}

// About how long an event is as JSON, without making it: a page may change a thousand things a second.
function approximately(value: unknown, depth = 0): number {
  if (typeof value === "string") return value.length + 4;
  if (value === null || typeof value !== "object") return 6;
  if (depth > 12) return 40;
  let sum = 2;
  for (const part of Object.values(value)) sum += 8 + approximately(part, depth + 1);
  return sum;
}
