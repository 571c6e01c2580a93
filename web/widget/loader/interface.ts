import type { Host } from "./host";

/** How often something is said, over about a minute, before it counts as lost. */
const tries = 6;

type Listener = (value: unknown) => void;

/** What the site's own scripts can ask: see docs/guide/site.md. */
export class Interface {
  private readonly listeners = new Map<string, Set<Listener>>();
  private sent: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly host: Host,
    private readonly opens: (open: boolean) => void,
  ) {}

  /** Does what was asked for before this code was there, and from now on does it at once. */
  catchUp(): void {
    for (const [name, values] of this.host.calls.splice(0)) this.call(name, values);
  }

  /** Tells the site's scripts that something happened. */
  tell(kind: string, value: unknown): void {
    for (const listener of this.listeners.get(kind) ?? []) {
      try {
        listener(value);
      } catch (error) {
        console.error("Stoop: a listener of the page failed.", error); // it is the page's
      }
    }
  }

  /** Reports whether the site's scripts listen. */
  hears(kind: string): boolean {
    return this.listeners.has(kind);
  }

  private call(name: string, [value, second]: unknown[]): void {
    switch (name) {
      case "open":
        return this.opens(true);
      case "close":
        return this.opens(false);
      case "on":
        if (typeof value !== "string" || typeof second !== "function")
          return this.wrong('on() takes a name, like "message", and a function');
        if (!this.listeners.has(value)) this.listeners.set(value, new Set());
        this.listeners.get(value)?.add(second as Listener);
        return;
      case "consent":
        this.host.remember("consent", value === true ? "yes" : "no");
        return this.host.pulse();
      case "identify":
        if (typeof value === "string") return this.send({ signed: value });
        if (!isObject(value))
          return this.wrong("identify() takes a signed token, or an object with name, email, phone");
        return this.send({ person: value });
      case "set":
        if (!isObject(value)) return this.wrong("set() takes an object with fields");
        return this.send({ fields: value });
      case "basket":
        if (value !== null && !isObject(value))
          return this.wrong("basket() takes an object with lines, or null");
        return this.send({ basket: value ?? { lines: [] } });
      case "event":
        if (typeof value !== "string") return this.wrong("event() takes a name");
        return this.send({ event: value });
    }
  }

  private wrong(words: string): void {
    console.warn(`Stoop: ${words}.`);
  }

  /** One after the other, in the order of the calls; what the server cannot take now is said again. */
  private send(data: object): void {
    this.sent = this.sent.then(() => this.say(data, 1));
  }

  private async say(data: object, tried: number): Promise<void> {
    const { tab, token } = this.host.page();
    let problem: { title?: string; detail?: string; retry?: boolean } = { retry: true };
    try {
      const answer = await fetch(`${this.host.path}data`, {
        method: "POST",
        headers: { "Content-Type": "text/plain" },
        body: JSON.stringify({ tab, token, ...data }),
      });
      if (answer.ok) return;
      problem = await answer.json();
    } catch {
      // No answer, or none of ours: like "not now".
    }
    if (problem.retry && tried < tries) {
      await new Promise((later) => setTimeout(later, 1000 * 2 ** tried));
      return this.say(data, tried + 1);
    }
    problem.title ??= "The chat server cannot be reached; what the page said of the visitor got lost";
    this.wrong([problem.title, problem.detail].filter(Boolean).join(". ").replace(/\.$/, ""));
    this.tell("problem", problem);
  }
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
