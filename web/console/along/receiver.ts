import type { AlongPart } from "../../shared/types";
import { unpack } from "../../widget/along/pack";

// A page unpacked; what is larger is not drawn.
const unpackedMost = 40_000_000;

/** Puts together what comes in parts, in their order. */
export class Receiver {
  private of = "";
  private next = 0;
  private half = "";
  private order: Promise<void> = Promise.resolve();

  constructor(
    private readonly onEvents: (events: unknown[]) => void,
    /** Something is missing or cannot be read: the whole page is needed. */
    private readonly onLost: () => void,
  ) {}

  take(part: Pick<AlongPart, "of" | "part" | "data" | "more">): void {
    if (part.of !== this.of) {
      this.of = part.of;
      this.next = part.part;
      this.half = "";
      if (part.part !== 1) return this.lost();
    } else if (part.part !== this.next) {
      return this.lost();
    }
    this.next = part.part + 1;
    if (part.more) {
      this.half += part.data;
      return;
    }
    const packed = this.half + part.data;
    this.half = "";
    this.order = this.order.then(() => unpack(packed, unpackedMost)).then(this.onEvents, () => this.onLost());
  }

  private lost(): void {
    this.half = "";
    this.next = 0;
    this.of = "";
    this.onLost();
  }
}
