// The loader is all that a site's page carries: it tells that the page is open,
// shows the launcher and brings in the rest (more.ts) when that is needed. It must
// stay small and must not touch the page's own styles or scripts.

import { uuid } from "../../shared/uuid";
import { stands, type State } from "../stands";
import type { Changed, Host, Invitation, More, Widget } from "./host";

const script = document.currentScript as HTMLScriptElement;
const { dataset } = script;
const origin = new URL(script.src).origin;
const key = dataset.key ?? "";
const path = `${origin}/widget/${encodeURIComponent(key)}/`;
const warn = (words: string) => console.warn(`Stoop: ${words}`);

// How often an open page says so; the server waits for more than two of these.
const pulseEvery = 25_000;
// Nothing was moved for so long: nobody attends to the page.
const idleAfter = 60_000;

// What must last is kept here, in the page's own storage: the panel is a frame of
// another site, whose storage browsers divide up, empty or refuse. A browser may
// refuse this one too; then it lasts as long as the page.
const prefix = `stoop.${key}.`;
const memory = new Map<string, string>();
let lasts = true;
function remember(
  name: string,
  value?: string | null,
  place: "local" | "session" = "local",
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

const hidden = () => document.visibilityState === "hidden";

// What the visitor does: durations only, since clocks are wrong.
const tab = uuid();
let href = location.href;
let attended = 0;
let ticked = Date.now();
let moved = ticked;
let form = false;
const idle = () => hidden() || Date.now() - moved > idleAfter;
for (const kind of ["pointermove", "pointerdown", "keydown", "scroll"])
  addEventListener(
    kind,
    ({ type, target }) => {
      moved = Date.now();
      if (/down/.test(type)) form = /^(INPUT|SELECT|TEXTAREA)$/.test((target as Element).tagName);
    },
    { passive: true, capture: true },
  );

function page() {
  return {
    tab,
    token: remember("token"),
    url: location.href,
    title: document.title,
    referrer: document.referrer,
    language: navigator.language,
    // The page's own language counts most: a Danish page is read in Danish.
    speaks: [dataset.language, document.documentElement.lang, ...navigator.languages].join(),
    attended,
    idle: idle(),
    form,
    consent: remember("consent") === "yes",
  };
}

// Set when the server knows better than to try again: a wrong key or site.
let refused = false;

// What the server was told last.
let reported = "";
const standing = () => location.href + document.title + idle();

async function ask(): Promise<Widget | undefined> {
  let left = 0;
  if (href !== location.href) [left, attended] = [attended, 0];
  href = location.href;
  reported = standing();
  const known = remember("token");
  try {
    const answer = await fetch(`${path}pulse`, {
      method: "POST",
      // Plain text spares the browser the question whether it may ask.
      headers: { "Content-Type": "text/plain" },
      body: JSON.stringify({ ...page(), left }),
    });
    const body = await answer.json();
    if (answer.ok) {
      // Another tab may have been faster: its visitor is this one.
      if (body.token && remember("token") === known) remember("token", body.token);
      return body as Widget;
    }
    warn(`${body.title}. ${body.detail}`);
    refused = answer.status < 500 && answer.status !== 429;
  } catch {
    warn("the server cannot be reached; trying again.");
  }
}

// One after the other, so that a browser is not two visitors.
let asked: Promise<unknown> = Promise.resolve();
function pulse(): Promise<Widget | undefined> {
  const next = asked.then(ask);
  asked = next;
  return next;
}

// What the site's own scripts ask of Stoop waits here until the rest is there.
const calls: [string, unknown[]][] = [];
let need = () => {};
const names = ["open", "close", "identify", "set", "basket", "event", "on", "consent"];
const stoop = Object.fromEntries(
  names.map((name) => [
    name,
    (...values: unknown[]) => {
      calls.push([name, values]);
      need();
    },
  ]),
);

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
  const { style } = host;
  const set = (name: string, value: string) => style.setProperty(name, value, "important");
  set("all", "initial");
  set("font-family", getComputedStyle(document.body).fontFamily);
  const root = host.attachShadow({ mode: "open" });
  const sheet = new CSSStyleSheet();
  // A flight of steps leads up to the launcher from the inner side.
  sheet.replaceSync(
    `*{box-sizing:border-box}` +
      `.launch{position:fixed;z-index:2147483000;bottom:0;left:var(--left);right:var(--right);display:flex;align-items:stretch;border:0;padding:0;background:none;font:inherit;font-size:16px;line-height:1.3;cursor:pointer;text-align:left}` +
      `.launch::before{content:"";width:2.7em;margin-inline-end:-1px;background:var(--site);clip-path:polygon(0 100%,0 75%,33% 75%,33% 50%,67% 50%,67% 25%,100% 25%,100% 100%)}` +
      `.face{display:block;min-height:3.75em;padding:.56em 1.25em .56em .875em;background:var(--site);color:var(--on-site);border-radius:0 6px 0 0}` +
      `.small{font-size:14px}.large{font-size:19px}.left{flex-direction:row-reverse}.left::before{transform:scaleX(-1)}.left .face{border-radius:6px 0 0 0}` +
      `svg{float:left;width:1.6em;height:2.5em;margin-inline-end:.6em;fill:none;stroke:currentColor;stroke-width:1.5}` +
      `b{display:block;font-weight:650}small{font-size:.875em}` +
      `.launch:focus-visible .face{outline:3px solid #fff;outline-offset:-5px}.launch:hover .face{text-decoration:underline}` +
      `[hidden]{display:none!important}`,
  );
  root.adoptedStyleSheets = [sheet];

  const button = document.createElement("button");
  button.setAttribute("aria-expanded", "false");
  const make = (name: string, to: HTMLElement) => to.appendChild(document.createElement(name));
  const face = make("span", button);
  face.className = "face";
  const icon = face.appendChild(document.createElementNS("http://www.w3.org/2000/svg", "svg"));
  icon.setAttribute("viewBox", "0 0 16 16");
  const drawn = icon.appendChild(document.createElementNS(icon.namespaceURI, "path"));
  const title = make("b", face);
  const line = make("small", face);
  root.append(button);
  hang(host);

  let more: Promise<More> | undefined;

  function show(now: State, changed?: Changed): void {
    Object.assign(widget, changed, { now });
    const { looks, corner } = widget;
    const own = dataset.side;
    shared.side = own === "left" || own === "right" ? own : corner;
    shared.distance = `${parseInt(dataset.distance ?? "") || looks.distance}px`;
    button.className = `launch ${shared.side} ${looks.size}`;
    for (const at of ["left", "right"]) set(`--${at}`, at === shared.side ? shared.distance : "auto");
    icon.style.display = looks.icon ? "" : "none";
    drawn.setAttribute("d", looks.icon);
    title.textContent = widget.title;
    set("--site", widget.colour);
    set("--on-site", widget.onColour);
    set("display", widget.hidden && !remember("chat") ? "none" : "block");
    button.style.display = now.state === "closed" && widget.hideClosed && !remember("chat") ? "none" : "";
    line.textContent = stands(widget.words, now);
  }

  const shared: Host = {
    key,
    origin,
    path,
    side: "right",
    distance: "",
    widget,
    root,
    button,
    prefix,
    memory,
    lasts: () => lasts,
    remember,
    page,
    pulse: () => void pulse().then(learn),
    attends: () => (moved = Date.now()),
    show,
    calls,
    stoop,
  };
  // The rest of our code; when it does not come it is asked for again with the next wish.
  function bring(): Promise<More> {
    more ??= import(/* @vite-ignore */ `${origin}/stoop-more.js`)
      .then((code: { start: (host: Host) => More }) => code.start(shared))
      .catch((error: unknown) => {
        more = undefined;
        warn("a part did not load.");
        throw error;
      });
    return more;
  }
  const tell = (what: (more: Awaited<More>) => void) => void bring().then(what, () => {});

  button.onclick = () => tell((m) => m.open(true));
  button.onfocus = button.onpointerenter = () => tell(() => {}); // it will be wanted in a moment
  need = () => tell((m) => m.called());

  // What is learned of the team is the panel's to know as well.
  function learn(fresh: Widget | undefined): void {
    if (!fresh) return;
    const { invitation, ...changed } = fresh;
    show(changed.now, changed);
    if (more) tell((m) => m.now(changed.now));
    invited(invitation);
    if (changed.consent && !remember("consent")) tell((m) => m.consent(changed.consent ?? ""));
  }
  function invited(invitation: Invitation | undefined): void {
    if (invitation || more) tell((m) => m.invited(invitation));
  }

  show(widget.now);
  follow(
    (state) => {
      show(state);
      if (more) tell((m) => m.now(state));
    },
    // Not all open pages at once.
    () =>
      setTimeout(
        () =>
          void pulse().then((fresh) => {
            learn(fresh);
            if (more) tell((m) => m.changed());
          }),
        Math.random() * 3000,
      ),
    invited,
    () => void pulse().then(learn),
  );
  learn(widget);
  if (calls.length > 0) need();
  // A chat that goes on is there in every tab: its panel is, and tells of news.
  if (remember("open", undefined, "session") || dataset.open) tell((m) => m.open(true, false));
  else if (remember("chat")) tell((m) => m.load());
  addEventListener("storage", (event) => {
    if (event.key === `${prefix}chat` && event.newValue) tell((m) => m.chat());
  });

  let quiet = 0;
  setInterval(() => {
    const now = Date.now();
    if (!idle()) attended += Math.min(now - ticked, 2000);
    ticked = now;
    // Sites that change pages without loading them are followed too.
    if (standing() === reported) return;
    if (more && href !== location.href) tell((m) => m.page());
    void pulse().then(learn);
  }, 1000);
  setInterval(() => {
    // Of a page out of view less is enough.
    if (hidden() && !remember("chat") && ++quiet % 2) return;
    void pulse().then(learn);
  }, pulseEvery);
}

// Learns within a moment whether the team is there, and of invitations; a browser
// without event streams learns it with its next pulse. Only the page in view holds a
// stream: browsers allow few connections to one server, over all tabs.
function follow(
  learn: (state: State) => void,
  change: () => void,
  invited: (invitation?: Invitation) => void,
  again: () => void,
): void {
  if (!window.EventSource) return;
  const hello = encodeURIComponent('{"id":1,"connect":{}}');
  let stream: EventSource | undefined;
  const look = () => {
    stream?.close();
    stream = undefined;
    if (hidden()) return;
    stream = new EventSource(`${origin}/live/page/${encodeURIComponent(key)}?tab=${tab}&cf_connect=${hello}`);
    stream.onmessage = (event) => {
      const data = JSON.parse(event.data).push?.pub?.data;
      if (data?.type === "state") learn(data);
      if (data?.type === "widget") change();
      if (data?.type === "invited") invited(data.invitation);
    };
  };
  look();
  document.addEventListener("visibilitychange", () => {
    look();
    if (stream) again();
  });
}

addEventListener("pagehide", () => {
  navigator.sendBeacon(`${path}leave`, JSON.stringify({ tab, token: remember("token"), attended }));
});
addEventListener("pageshow", (event) => {
  if (event.persisted) void pulse();
});

async function start(): Promise<void> {
  if (!key) {
    warn("the snippet has no data-key. Copy it from Setup.");
    return;
  }
  const global = window as { stoop?: unknown };
  if (global.stoop) {
    warn("the snippet is here twice; the second does nothing.");
    return;
  }
  global.stoop = stoop;
  dispatchEvent(new Event("stoop"));
  await appear();
}

async function appear(): Promise<void> {
  const widget = await pulse();
  if (widget) build(widget);
  else if (!refused) setTimeout(() => void appear(), 10_000);
}

void start();
