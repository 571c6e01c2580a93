/** What the console tells the frame in which a visitor's page is drawn. */
export type ToAlong =
  | { kind: "events"; events: unknown[] }
  | { kind: "replay"; events: unknown[] }
  | { kind: "play"; at: number }
  | { kind: "pause" }
  | { kind: "to"; at: number };

/** What the frame tells the console. */
export type FromAlong =
  | { kind: "ready" }
  | { kind: "broken" }
  | { kind: "point"; x: number; y: number }
  | { kind: "scroll"; y: number }
  | { kind: "length"; milliseconds: number }
  | { kind: "at"; milliseconds: number }
  | { kind: "finished" };
