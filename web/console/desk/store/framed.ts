import { createStore, type StoreApi } from "zustand/vanilla";

// When no frame comes in this time, in milliseconds, the page is not being drawn.
const latestFrame = 100;

/**
 * Makes stores that change at once and tell their readers once a frame: whatever
 * comes within one, in whichever of them, is drawn together.
 */
export class Frames {
  private readonly pending = new Set<() => void>();
  private asked = false;

  /** Makes a store. */
  store<T extends object>(initial: T): StoreApi<T> {
    const inner = createStore<T>(() => initial);
    const readers = new Set<(now: T, before: T) => void>();
    let told = initial;
    const tell = () => {
      const before = told;
      told = inner.getState();
      if (told !== before) for (const reader of readers) reader(told, before);
    };
    inner.subscribe(() => this.later(tell));
    return {
      ...inner,
      subscribe: (reader) => {
        readers.add(reader);
        return () => readers.delete(reader);
      },
    };
  }

  /** Tells all readers now: for what the next key is meant for. */
  flush(): void {
    this.asked = false;
    const pending = [...this.pending];
    this.pending.clear();
    for (const tell of pending) tell();
  }

  private later(tell: () => void): void {
    this.pending.add(tell);
    if (this.asked) return;
    // A page that nobody sees gets no frames, and may lose sight of them while it
    // waits for one.
    this.asked = true;
    const due = () => {
      clearTimeout(late);
      if (this.asked) this.flush();
    };
    const late = setTimeout(due, document.hidden ? 0 : latestFrame);
    if (!document.hidden && "requestAnimationFrame" in globalThis) requestAnimationFrame(due);
  }
}
