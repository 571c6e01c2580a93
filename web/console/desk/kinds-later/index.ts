import type { Kind } from "../kind";

/** The kinds of events that need not be known on the first screen, by their files' paths. */
export const files = import.meta.glob<Kind>(["./*.ts", "!./index.ts"], { eager: true, import: "default" });
