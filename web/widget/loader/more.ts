// What a site's page needs beyond the launcher, brought in when it is wanted: the
// panel in its frame, invitations, the question for consent, and the interface for
// the site's own scripts.

import { fill } from "../stands";
import { Card } from "./card";
import type { Host, Invitation, More } from "./host";
import { Interface } from "./interface";

/** What records the page while somebody looks along. */
interface Along {
  take: (message: object, host: Host, tell: (message: object) => void) => void;
}

/** Begins the rest. */
export function start(host: Host): More {
  const { origin, key, root, button, remember } = host;
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(
    `iframe{position:fixed;z-index:2147483001;bottom:0;left:var(--left);right:var(--right);width:380px;height:min(640px,calc(100% - 24px));border:0;border-radius:8px 8px 0 0;box-shadow:0 6px 24px rgba(30,20,14,.26);background:#fff;color-scheme:light}` +
      `@media(max-width:520px),(max-height:420px){iframe{inset:0;width:100%;height:100%;border-radius:0}}` +
      `.left mark{left:10px}.right mark{right:10px}mark{position:absolute;top:-12px;padding:3px 9px;border-radius:99px;background:#241b16;color:#fff;font-size:14px;font-weight:650;border:2px solid #fff}`,
  );
  root.adoptedStyleSheets = [...root.adoptedStyleSheets, sheet];

  const unread = document.createElement("mark");
  unread.hidden = true;
  button.append(unread);

  let frame: HTMLIFrameElement | undefined;
  let ready = false;
  // The panel gets ready before it is opened, and asks the server for nothing until then.
  let waits = false;
  let openedByHand = false;
  let accepted: Invitation | undefined;
  let along: Promise<Along> | undefined;

  function tell(message: object): void {
    if (ready) frame?.contentWindow?.postMessage({ stoop: 1, ...message }, origin);
  }

  const session = (name: string) => remember(name, undefined, "session");

  function page(): void {
    tell({ kind: "page", page: { ...host.page(), shown: session("shown"), along: session("along") } });
  }

  function load(): void {
    if (frame) return;
    frame = document.createElement("iframe");
    frame.title = host.widget.title;
    frame.src = `${origin}/panel/${encodeURIComponent(key)}?language=${host.widget.language}`;
    frame.hidden = true;
    root.append(frame);
  }

  function open(open: boolean, byHand = true): void {
    load();
    if (!frame) return;
    if (open) waits = false;
    openedByHand ||= byHand && open;
    frame.hidden = !open;
    button.hidden = open;
    button.setAttribute("aria-expanded", String(open));
    remember("open", open ? "1" : null, "session");
    if (open) card.hide();
    else card.place();
    tell({ kind: "shown", shown: open, byHand, takes: scripts.hears("card") });
    scripts.tell("open", open);
    // A page that has just loaded must not take the focus away.
    if (!byHand) return;
    if (open) frame.focus();
    else button.focus();
  }

  // All that the panel has kept.
  function items(): Record<string, string> {
    remember("lasts", "1");
    const all: Record<string, string> = Object.fromEntries(host.memory);
    try {
      for (const name of Object.keys(localStorage))
        if (name.startsWith(host.prefix)) all[name] = localStorage.getItem(name) ?? "";
    } catch {
      // memory is all there is
    }
    return all;
  }

  const card = new Card(host, (invitation, byHand) => {
    accepted = invitation;
    open(true, byHand);
    tell({ kind: "invited", invitation });
  });
  const scripts = new Interface(host, open);

  addEventListener("message", (event) => {
    if (!frame || event.source !== frame.contentWindow || event.origin !== origin) return;
    const data = event.data as {
      stoop?: number;
      kind?: string;
      count?: number;
      state?: Host["widget"]["now"];
      title?: string;
      open?: boolean;
      name?: string;
      value?: string | null;
      text?: string;
      card?: object;
      from?: string;
      url?: string;
      shown?: string | null;
    };
    if (data?.stoop !== 1) return;
    host.attends();
    if (data.kind === "hello") {
      const kept = { stoop: 1, kind: "kept", items: items(), lasts: host.lasts(), waits };
      frame.contentWindow?.postMessage(kept, origin);
    } else if (data.kind === "keep") {
      const { name, value } = data;
      if (
        typeof name === "string" &&
        name.startsWith(host.prefix) &&
        (value === null || typeof value === "string")
      ) {
        const known = remember("token");
        remember(name.slice(host.prefix.length), value);
        // The panel knows who the visitor is before the page does.
        if (remember("token") !== known) host.pulse();
      }
    } else if (data.kind === "ready") {
      ready = true;
      page();
      if (accepted) tell({ kind: "invited", invitation: accepted });
      if (remember("chat")) tell({ kind: "chat" }); // begun elsewhere while this got ready
      tell({ kind: "shown", shown: !frame.hidden, byHand: openedByHand, takes: scripts.hears("card") });
    } else if (data.kind === "along") {
      along ??= import(/* @vite-ignore */ `${origin}/stoop-along.js`) as Promise<Along>;
      along.then(
        ({ take }) => take(data, host, tell),
        () => (along = undefined), // the next page tries again
      );
    } else if (data.kind === "go") {
      // The visitor said so in the panel; nothing that could run is gone to.
      const { url = "", shown = null } = data;
      if (!/^https?:/.test(url)) return;
      remember("shown", shown, "session"); // in this tab, wherever it goes
      location.assign(url);
    } else if (data.kind === "hide") {
      open(false);
    } else if (data.kind === "state" && data.state) {
      host.show(data.state, data.title ? { title: data.title } : {});
    } else if (data.kind === "chat") {
      remember("chat", data.open ? "1" : null);
      if (data.open) card.forget();
    } else if (data.kind === "unread") {
      const count = data.count ?? 0;
      unread.hidden = count === 0;
      unread.textContent = count > 0 ? fill(host.widget.words.unread, count) : "";
    } else if (data.kind === "card") {
      scripts.tell("card", data.card);
    } else if (data.kind === "said") {
      scripts.tell("message", { text: data.text ?? "", from: data.from ?? "" });
    }
  });

  scripts.catchUp();

  // Who reaches for the launcher is about to press it.
  const reached = () => {
    waits ||= !frame;
    load();
  };
  for (const kind of ["pointerenter", "focus"]) button.addEventListener(kind, reached);
  if (button.matches(":hover,:focus")) reached();

  return {
    open,
    load,
    now: (state) => tell({ kind: "now", state }),
    changed: () => tell({ kind: "widget" }),
    page,
    chat: () => {
      load();
      tell({ kind: "chat" });
    },
    invited: (invitation) => {
      if (!remember("chat")) card.invite(invitation, frame ? !frame.hidden : false);
    },
    consent: (text) => card.ask(text),
    called: () => scripts.catchUp(),
  };
}
