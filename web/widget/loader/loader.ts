// The loader is all that a site's page carries: it counts the visit, shows the
// launcher and brings in the panel when the visitor wants it. It must stay
// small and must not touch the page's own styles or scripts.

import english from "../../locales/loader/en.json";
import german from "../../locales/loader/de.json";
import { uuid } from "../../shared/uuid";

// The first of the visitor's languages that there are words for, as in the panel.
const words: Record<string, string> = /^de/.test(navigator.languages.find((l) => /^(de|en)\b/.test(l)) ?? "")
  ? german
  : english;

// Says a text in the visitor's language; what stands in braces is filled in, in order.
function say(text: keyof typeof english, ...values: (string | number)[]): string {
  let at = 0;
  return (words[text] ?? english[text]).replace(/\{\w+\}/g, () => String(values[at++]));
}

// How the team stands, in a line.
function stands({ state, in: names, opensAt }: State): string {
  if (state === "closed") {
    if (!opensAt) return say("leave");
    const when = { weekday: "short", hour: "2-digit", minute: "2-digit" } as const;
    return say("back", new Date(opensAt).toLocaleString(say("locale"), when));
  }
  const busy = state === "busy" ? "Busy" : "";
  const [first = "", second = ""] = names;
  if (names.length > 2) return say(`many${busy}`, first, names.length - 1);
  return names.length > 1 ? say(`two${busy}`, first, second) : say(`one${busy}`, first);
}

interface Widget {
  title: string;
  colour: string;
  onColour: string;
  corner: "left" | "right";
  now: State;
  hideClosed: boolean;
}

interface State {
  state: string;
  in: string[];
  opensAt?: string;
}

const script = document.currentScript as HTMLScriptElement;
const origin = new URL(script.src).origin;
const key = script.dataset.key ?? "";
const warn = (words: string) => console.warn(`Stoop: ${words}`);

// How often an open page says so; the server waits for more than two of these.
const pulseEvery = 25_000;

// What must last is kept here, in the page's own storage: the panel is a frame of
// another site, whose storage browsers divide up, empty or refuse. A browser may
// refuse this one too; then it lasts as long as the page.
const prefix = `stoop.${key}.`;
const memory = new Map<string, string>();
let lasts = true;
function remember(
  name: string,
  value?: string | null,
  place: "local" | "session" = "session",
): string | undefined {
  const full = prefix + name;
  try {
    const storage = place === "local" ? localStorage : sessionStorage;
    if (value === null) storage.removeItem(full);
    else if (value !== undefined) storage.setItem(full, value);
    return storage.getItem(full) ?? undefined;
  } catch {
    lasts = false;
    if (value === null) memory.delete(full);
    else if (value !== undefined) memory.set(full, value);
    return memory.get(full);
  }
}

// All that the panel has kept.
function items(): Record<string, string> {
  remember("lasts", "1", "local");
  const all: Record<string, string> = Object.fromEntries(memory);
  try {
    for (const name of Object.keys(localStorage))
      if (name.startsWith(prefix)) all[name] = localStorage.getItem(name) ?? "";
  } catch {
    // memory is all there is
  }
  return all;
}

function visitId(): string {
  return remember("visit") ?? remember("visit", uuid()) ?? "";
}

function page() {
  return {
    visitId: visitId(),
    url: location.href,
    title: document.title,
    referrer: document.referrer,
    language: navigator.language,
  };
}

// Set when the server knows better than to try again: a wrong key or site.
let refused = false;

// The page that the server was told about last.
let reported = "";

async function pulse(): Promise<Widget | undefined> {
  reported = location.href + document.title;
  try {
    const answer = await fetch(`${origin}/widget/${encodeURIComponent(key)}/pulse`, {
      method: "POST",
      // Plain text spares the browser the question whether it may ask.
      headers: { "Content-Type": "text/plain" },
      body: JSON.stringify(page()),
    });
    const body = await answer.json();
    if (answer.ok) return body as Widget;
    warn(`${body.title}. ${body.detail}`);
    refused = answer.status < 500;
  } catch {
    warn("the chat server cannot be reached; trying again.");
  }
}

// Beside the body, which a page may move, clip or turn, and in the browser's own
// top layer, over whatever bars the page has. A browser without that layer has
// only the order of the styles.
function hang(host: HTMLElement): void {
  document.documentElement.append(host);
  host.popover = "manual";
  host.showPopover?.();
}

function build(widget: Widget): void {
  // A name of its own, and styles that win: rules of the page for its own
  // elements paint nothing here.
  const host = document.createElement("stoop-chat");
  host.style.setProperty("all", "initial", "important");
  const root = host.attachShadow({ mode: "open" });
  const sheet = new CSSStyleSheet();
  const side = widget.corner;
  // A flight of steps leads up to the launcher from the inner side.
  const flip = side === "left" ? "transform:scaleX(-1);" : "";
  sheet.replaceSync(
    `:host{all:initial;font-family:inherit}*{box-sizing:border-box}` +
      `button{position:fixed;z-index:2147483000;bottom:0;${side}:24px;display:flex;align-items:stretch;flex-direction:row${side === "left" ? "-reverse" : ""};border:0;padding:0;background:none;font:inherit;font-size:16px;line-height:1.3;cursor:pointer;text-align:left}` +
      `svg{width:42px;height:100%;min-height:56px;${flip}fill:var(--site);display:block;flex:none}` +
      `span.face{display:block;min-height:60px;padding:9px 20px 9px 14px;background:var(--site);color:var(--on-site);border-radius:6px 6px 0 0;border-top-${side === "left" ? "right" : "left"}-radius:0}` +
      `b{display:block;font-weight:650}small{font-size:14px}` +
      `mark{position:absolute;top:-12px;${side}:10px;padding:3px 9px;border-radius:99px;background:#241b16;color:#fff;font-size:14px;font-weight:650;border:2px solid #fff}` +
      `button:focus-visible .face{outline:3px solid #fff;outline-offset:-5px}button:hover .face{text-decoration:underline;text-decoration-thickness:2px;text-underline-offset:3px}` +
      `iframe{position:fixed;z-index:2147483001;bottom:0;${side}:24px;width:380px;height:min(640px,calc(100% - 24px));border:0;border-radius:8px 8px 0 0;box-shadow:0 6px 24px rgba(30,20,14,.26);background:#fff;color-scheme:light}` +
      `@media(max-width:520px),(max-height:420px){iframe{inset:0;width:100%;height:100%;border-radius:0}}` +
      `[hidden]{display:none!important}`,
  );
  root.adoptedStyleSheets = [sheet];

  const button = document.createElement("button");
  button.type = "button";
  button.setAttribute("aria-expanded", "false");
  const steps = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  steps.setAttribute("viewBox", "0 0 42 60");
  steps.setAttribute("preserveAspectRatio", "none");
  steps.setAttribute("aria-hidden", "true");
  const flight = document.createElementNS("http://www.w3.org/2000/svg", "path");
  flight.setAttribute("d", "M0 60V45H14V30H28V15H42.5V60Z");
  steps.append(flight);
  const face = document.createElement("span");
  face.className = "face";
  const title = document.createElement("b");
  const line = document.createElement("small");
  const unread = document.createElement("mark");
  unread.hidden = true;
  face.append(title, line);
  button.append(steps, face, unread);
  root.append(button);
  hang(host);

  let frame: HTMLIFrameElement | undefined;
  let ready = false;
  let openedByHand = false;

  function show({ state, in: names, opensAt }: State, changed?: Partial<Widget>): void {
    Object.assign(widget, changed, { now: { state, in: names, opensAt } });
    title.textContent = widget.title;
    button.style.setProperty("--site", widget.colour);
    button.style.setProperty("--on-site", widget.onColour);
    button.style.display =
      state === "closed" && widget.hideClosed && !remember("chat", undefined, "local") ? "none" : "";
    line.textContent = stands(widget.now);
  }

  function tell(message: object): void {
    if (ready) frame?.contentWindow?.postMessage({ stoop: 1, ...message }, origin);
  }

  function load(): void {
    if (frame) return;
    frame = document.createElement("iframe");
    frame.title = widget.title;
    frame.src = `${origin}/panel/${encodeURIComponent(key)}`;
    frame.hidden = true;
    root.append(frame);
  }

  function open(open: boolean, byHand = true): void {
    load();
    if (!frame) return;
    frame.hidden = !open;
    button.hidden = open;
    button.setAttribute("aria-expanded", String(open));
    remember("open", open ? "1" : "");
    tell({ kind: "shown", shown: open, byHand });
    // A page that has just loaded must not take the focus away.
    if (!byHand) return;
    if (open) frame.focus();
    else button.focus();
  }

  button.onclick = () => {
    openedByHand = true;
    open(true);
  };

  addEventListener("message", (event) => {
    if (!frame || event.source !== frame.contentWindow || event.origin !== origin) return;
    const data = event.data as {
      stoop?: number;
      kind?: string;
      count?: number;
      state?: State;
      title?: string;
      open?: boolean;
      name?: string;
      value?: string | null;
    };
    if (data?.stoop !== 1) return;
    if (data.kind === "hello") {
      const all = items();
      frame.contentWindow?.postMessage({ stoop: 1, kind: "kept", items: all, lasts }, origin);
    } else if (data.kind === "keep") {
      const { name, value } = data;
      if (
        typeof name === "string" &&
        name.startsWith(prefix) &&
        (value === null || typeof value === "string")
      )
        remember(name.slice(prefix.length), value, "local");
    } else if (data.kind === "ready") {
      ready = true;
      tell({ kind: "page", page: page() });
      tell({ kind: "shown", shown: !frame.hidden, byHand: openedByHand });
    } else if (data.kind === "hide") {
      open(false);
    } else if (data.kind === "state" && data.state) {
      show(data.state, data.title ? { title: data.title } : {});
    } else if (data.kind === "chat") {
      remember("chat", data.open ? "1" : null, "local");
    } else if (data.kind === "unread") {
      const count = data.count ?? 0;
      unread.hidden = count === 0;
      unread.textContent = count > 0 ? say("unread", count) : "";
    }
  });

  // What is learned of the team is the panel's to know as well.
  function learn(state: State, changed?: Partial<Widget>): void {
    show(state, changed);
    tell({ kind: "now", state });
  }

  show(widget.now);
  follow(learn, (changed) => {
    show(widget.now, changed);
    tell({ kind: "widget" });
  });
  // A chat that goes on is there in every tab: its panel is, and tells of news.
  if (remember("open")) open(true, false);
  else if (remember("chat", undefined, "local")) load();
  addEventListener("storage", (event) => {
    if (event.key !== `${prefix}chat` || !event.newValue) return;
    load();
    tell({ kind: "chat" });
  });

  setInterval(() => {
    // Sites that change pages without loading them are followed too.
    if (location.href + document.title === reported) return;
    tell({ kind: "page", page: page() });
    void pulse();
  }, 1000);
  setInterval(async () => {
    if (document.visibilityState === "hidden" && !remember("chat", undefined, "local")) return;
    const fresh = await pulse();
    if (fresh) learn(fresh.now, fresh);
  }, pulseEvery);
}

// Learns within a moment whether the team is there; a browser without event
// streams learns it with its next pulse. Only the page in view holds a stream:
// browsers allow few connections to one server, over all tabs.
function follow(
  learn: (state: State, changed?: Partial<Widget>) => void,
  change: (changed: Partial<Widget>) => void,
): void {
  if (!window.EventSource) return;
  const hello = encodeURIComponent('{"id":1,"connect":{}}');
  let stream: EventSource | undefined;
  const look = () => {
    stream?.close();
    stream = undefined;
    if (document.visibilityState === "hidden") return;
    stream = new EventSource(`${origin}/live/page/${encodeURIComponent(key)}?cf_connect=${hello}`);
    stream.onmessage = (event) => {
      const data = JSON.parse(event.data).push?.pub?.data;
      if (data?.type === "state") learn(data);
      if (data?.type === "widget") change(data);
    };
  };
  look();
  document.addEventListener("visibilitychange", () => {
    look();
    if (stream) void pulse().then((fresh) => fresh && learn(fresh.now, fresh));
  });
}

addEventListener("pagehide", () => {
  navigator.sendBeacon(
    `${origin}/widget/${encodeURIComponent(key)}/leave`,
    JSON.stringify({ visitId: visitId() }),
  );
});
addEventListener("pageshow", (event) => {
  if (event.persisted) void pulse();
});

async function start(): Promise<void> {
  if (!key) {
    warn("the snippet has no data-key. Copy it again from Setup.");
    return;
  }
  const global = window as { __stoop?: boolean };
  if (global.__stoop) {
    warn("the snippet stands on this page twice; the second one does nothing.");
    return;
  }
  global.__stoop = true;
  await appear();
}

async function appear(): Promise<void> {
  const widget = await pulse();
  if (widget) build(widget);
  else if (!refused) setTimeout(() => void appear(), 10_000);
}

void start();
