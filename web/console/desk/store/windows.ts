/**
 * Knows which lanes stand in windows of their own. Each such window holds a
 * lock with its chat's name, so that even one that crashed is noticed.
 */
export class Windows {
  private readonly opened = new Map<string, Window>();
  private readonly timer: ReturnType<typeof setInterval> | undefined;
  private readonly channel =
    "BroadcastChannel" in globalThis ? new BroadcastChannel("stoop-lanes") : undefined;

  constructor(private readonly changed: (outside: ReadonlySet<string>) => void) {
    if (isLaneWindow() || !("locks" in navigator)) return;
    this.timer = setInterval(() => void this.look(), 700);
    if (this.channel) this.channel.onmessage = () => void this.look();
    void this.look();
  }

  /** Opens a window for a lane; reports whether the browser allowed it. */
  open(id: string): boolean {
    const at = window.open(`/lane/${id}`, `stoop-lane-${id}`, "popup,width=460,height=780");
    if (at) this.opened.set(id, at);
    return at !== null;
  }

  /** Brings a lane's window to the front, if this one opened it. */
  show(id: string): void {
    this.opened.get(id)?.focus();
  }

  /** Holds a lane in this window until the returned function is called or the window goes. */
  hold(id: string): () => void {
    const { promise: held, resolve: release } = withResolvers();
    if ("locks" in navigator) void navigator.locks.request(lockOf(id), () => held);
    this.channel?.postMessage("moved");
    return () => {
      release();
      this.channel?.postMessage("moved");
    };
  }

  close(): void {
    clearInterval(this.timer);
    this.channel?.close();
  }

  private async look(): Promise<void> {
    const { held = [] } = await navigator.locks.query();
    const names = held.map((lock) => lock.name ?? "").filter((name) => name.startsWith(prefix));
    this.changed(new Set(names.map((name) => name.slice(prefix.length))));
  }
}

function withResolvers(): { promise: Promise<void>; resolve: () => void } {
  let resolve: () => void = () => undefined;
  const promise = new Promise<void>((done) => (resolve = done));
  return { promise, resolve };
}

const prefix = "stoop-lane:";

function lockOf(id: string): string {
  return prefix + id;
}

/** Reports whether this window shows a single lane. */
export function isLaneWindow(): boolean {
  return location.pathname.startsWith("/lane/");
}
