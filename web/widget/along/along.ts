// Looking along, on the page of the site: brought in only when the visitor has said yes.

import { record } from "rrweb";

import { Flow } from "./flow";
import { isPrivate, masked, Secrets, withoutCards } from "./secrets";

/** What the panel says. */
interface Message {
  what?: "start" | "stop" | "got" | "fresh" | "point" | "scroll";
  mark?: string;
  scroll?: boolean;
  words?: { sees: string; stop: string };
  of?: string;
  part?: number;
  x?: number;
  y?: number;
}

/** What it needs of the loader. */
interface Host {
  root: ShadowRoot;
  /** Where the chat is. */
  side: "left" | "right";
  remember: (name: string, value?: string | null, place?: "local" | "session") => string | undefined;
}

const every = 200;
const ringFor = 3000;

let session: Session | undefined;

/** Takes what the panel says. */
export function take(message: Message, host: Host, tell: (message: object) => void): void {
  const { what, mark = "" } = message;
  if (what === "start" && session?.mark !== mark) {
    session?.end();
    session = new Session(mark, message, host, tell);
  } else if (what === "stop") {
    session?.end();
    session = undefined;
  } else {
    session?.take(message);
  }
}

class Session {
  private readonly flow: Flow;
  private readonly secrets = new Secrets();
  private readonly bar = document.createElement("div");
  private readonly timer: ReturnType<typeof setInterval>;
  private readonly scrolls: boolean;

  constructor(
    readonly mark: string,
    message: Message,
    private readonly host: Host,
    tell: (message: object) => void,
  ) {
    host.remember("along", mark, "session"); // in this tab, wherever it goes
    this.scrolls = message.scroll === true;
    this.flow = new Flow(crypto.randomUUID?.() ?? String(Math.random()), {
      record: (emit) => this.record(emit),
      scrub: (events) => {
        this.secrets.gather(document);
        return events.map((e) => this.secrets.scrub(e));
      },
      send: (part) => tell({ kind: "along", part }),
      now: () => performance.now(),
    });
    this.show(message.words ?? { sees: "", stop: "×" }, () => tell({ kind: "along", end: true }));
    this.flow.fresh();
    this.timer = setInterval(() => void this.flow.tick(), every);
  }

  private record(emit: (event: unknown) => void): () => void {
    this.secrets.gather(document);
    const stop = record({
      emit: (event) => {
        if (event.type === 3 && event.data.source === 5) this.secrets.gather(document); // somebody types
        emit(event);
      },
      blockSelector: "stoop-chat,[data-stoop-private]:not(input,textarea,select)",
      maskAllInputs: true,
      maskInputFn: (text, element) => (isPrivate(element) ? masked(text) : withoutCards(text)),
      maskTextSelector: "*",
      maskTextFn: withoutCards,
      slimDOMOptions: "all",
      inlineStylesheet: true,
      recordCanvas: false,
      collectFonts: false,
      sampling: { mousemove: 100, scroll: 150, media: 1000, input: "last" },
    });
    return stop ?? (() => undefined);
  }

  take({ what, of = "", part = 0, x = 0, y = 0 }: Message): void {
    if (what === "got") this.flow.got(of, part);
    else if (what === "fresh") this.flow.fresh();
    else if (what === "point") this.point(x, y);
    else if (what === "scroll" && this.scrolls) window.scrollTo({ top: y });
  }

  private show(words: { sees: string; stop: string }, stop: () => void): void {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(
      `.along{position:fixed;z-index:2147483002;bottom:12px;display:flex;gap:12px;align-items:center;max-width:calc(100% - 24px);padding:4px 6px 4px 14px;border-radius:8px;background:#241b16;color:#fff;font-size:15px;box-shadow:0 4px 16px rgba(30,20,14,.3)}` +
        `.along button{min-height:44px;padding:6px 14px;border:1px solid #fff;border-radius:6px;background:none;color:#fff;font:inherit;font-weight:650;cursor:pointer}.along button:focus-visible{outline:3px solid #fff;outline-offset:2px}` +
        `.ring{position:fixed;z-index:2147483003;width:56px;height:56px;margin:-28px 0 0 -28px;border:5px solid #c8452c;border-radius:50%;box-shadow:0 0 0 3px #fff,inset 0 0 0 2px #fff;pointer-events:none}`,
    );
    this.host.root.adoptedStyleSheets = [...this.host.root.adoptedStyleSheets, sheet];
    this.bar.className = "along";
    this.bar.style[this.host.side === "left" ? "right" : "left"] = "12px"; // away from the chat
    this.bar.setAttribute("role", "status");
    const button = document.createElement("button");
    button.textContent = words.stop;
    button.onclick = stop;
    this.bar.append(words.sees, button);
    this.host.root.append(this.bar);
  }

  /** Draws a ring where somebody points. */
  private point(x: number, y: number): void {
    const ring = document.createElement("div");
    ring.className = "ring";
    ring.style.left = `${x}px`;
    ring.style.top = `${y}px`;
    this.host.root.append(ring);
    setTimeout(() => ring.remove(), ringFor);
  }

  end(): void {
    this.host.remember("along", null, "session");
    clearInterval(this.timer);
    this.flow.end();
    this.bar.remove();
  }
}
