// Waiting in tests of what has no screen.
import { vi } from "vitest";

/** Waits until a check passes; on a slow machine that may take its time. */
export function eventually<T>(check: () => T | Promise<T>): Promise<T> {
  return vi.waitFor(check, { timeout: 20_000 });
}
