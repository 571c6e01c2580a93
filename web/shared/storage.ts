/**
 * Keeps small things in the browser. Browsers may refuse storage (private
 * windows, full disks): then it lasts as long as the page, which is the best
 * there is.
 */
const memory = new Map<string, string>();
const listeners = new Set<() => void>();

/** Where things are kept instead of this page's own storage. */
export interface Keeper {
  /** What was kept before. */
  items: ReadonlyMap<string, string>;
  keep: (key: string, value: string | null) => void;
}
let keeper: Keeper | undefined;

/**
 * Lets somebody else keep what must last: a page in a frame of another site has
 * a storage of its own there, which browsers divide up, empty or refuse.
 */
export function keepElsewhere(other: Keeper): void {
  keeper = other;
  for (const [key, value] of other.items) memory.set(key, value);
}

/** Calls listener whenever something was kept on this page; returns how to stop. */
export function onKept(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export function keep(key: string, value: string | null): void {
  memory.delete(key);
  if (keeper) {
    if (value !== null) memory.set(key, value);
    keeper.keep(key, value);
  } else {
    try {
      if (value === null) localStorage.removeItem(key);
      else localStorage.setItem(key, value);
    } catch {
      if (value !== null) memory.set(key, value);
    }
  }
  for (const listener of listeners) listener();
}

export function kept(key: string): string | null {
  const fallback = memory.get(key);
  if (fallback !== undefined || keeper) return fallback ?? null;
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
}

export function keepJSON(key: string, value: unknown): void {
  keep(key, JSON.stringify(value));
}

/** Returns what was kept as JSON, or the fallback when there is nothing readable. */
export function keptJSON<T>(key: string, fallback: T): T {
  const text = kept(key);
  if (text === null) return fallback;
  try {
    return JSON.parse(text) as T;
  } catch {
    return fallback;
  }
}

/** Returns all that is kept under keys that begin with a prefix. */
export function keptUnder(prefix: string): Map<string, string> {
  const found = new Map([...memory].filter(([key]) => key.startsWith(prefix)));
  if (keeper) return found;
  try {
    for (let i = 0; i < localStorage.length; i++) {
      const key = localStorage.key(i);
      if (key?.startsWith(prefix)) found.set(key, localStorage.getItem(key) ?? "");
    }
  } catch {
    // What memory holds is all there is.
  }
  return found;
}

/** Reports whether what is kept here is there again after the page is left. */
export function storageLasts(): boolean {
  try {
    const key = "stoop.lasts";
    localStorage.setItem(key, "1");
    localStorage.removeItem(key);
    return true;
  } catch {
    return false;
  }
}

/** Puts words that were refused in front of the draft kept under a key. */
export function keepInFront(key: string, words: string): void {
  const draft = kept(key);
  keep(key, draft ? `${words}\n${draft}` : words);
}
