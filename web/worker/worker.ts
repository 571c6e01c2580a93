// Keeps the console's own files, so that it opens without a network and asks again by itself.
// Nothing that anybody said or that the server knows is kept: only what is the same for all.
// And shows what is pushed while no console is open.

declare const self: ServiceWorkerGlobalScope;

const shell = "stoop-shell-1";
/** Under which the page itself is kept; it is the same at each of the console's addresses. */
const page = "/desk";
/** How long the server is waited for before the page that is kept is shown, in milliseconds. */
const patience = 4000;
/** Files that are kept at the most; the oldest go first. */
const most = 400;

const elsewhere =
  /^\/(api|live|panel|preview|along|widget|articles|files|photos|metrics|healthz|readyz)(\/|$)/;
const lasting = /^\/(assets\/|icon-|favicon\.svg$)/;

self.addEventListener("install", (event) => {
  event.waitUntil(fill().then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((n) => n !== shell).map((n) => caches.delete(n))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (lasting.test(pathname)) event.respondWith(kept(event));
  else if (request.mode === "navigate" && !elsewhere.test(pathname) && !pathname.includes("."))
    event.respondWith(pageNow(event));
});

/** What the server pushes: see internal/pushes. */
interface Pushed {
  title: string;
  body?: string;
  tag?: string;
  path?: string;
}

self.addEventListener("push", (event) => {
  const told = pushed(event.data);
  // With the same tag one takes the place of another, and is heard again.
  const options: NotificationOptions & { renotify?: boolean } = {
    body: told.body ?? "",
    icon: "/icon-192.png",
    data: told.path,
    ...(told.tag ? { tag: told.tag, renotify: true } : {}),
  };
  event.waitUntil(self.registration.showNotification(told.title, options));
});

/** What was pushed. Something is shown in any case: browsers take the right away from who shows nothing. */
function pushed(data: PushMessageData | null): Pushed {
  try {
    const told = data?.json() as Partial<Pushed> | undefined;
    if (told?.title) return { ...told, title: told.title };
  } catch {
    // Not ours.
  }
  return { title: "Stoop" };
}

self.addEventListener("notificationclick", (event) => {
  event.notification.close();
  event.waitUntil(openConsole(event.notification.data));
});

/** Brings the console to the front at a path of its own, or opens it there. */
async function openConsole(data: unknown): Promise<void> {
  const path = typeof data === "string" && /^\/[a-z]/.test(data) ? data : page;
  const windows = await self.clients.matchAll({ type: "window", includeUncontrolled: true });
  const open = windows.find((w) => {
    const { pathname } = new URL(w.url);
    return !elsewhere.test(pathname) && !pathname.startsWith("/lane/");
  });
  if (!open) {
    await self.clients.openWindow(path);
    return;
  }
  await open.focus();
  open.postMessage({ open: path });
}

self.addEventListener("pushsubscriptionchange", (event) => {
  // The browser changed its address by itself: the server is told the new one.
  const change = event as PushSubscriptionChangeEvent;
  event.waitUntil(
    (async () => {
      const options = change.oldSubscription?.options;
      const now =
        change.newSubscription ?? (options ? await self.registration.pushManager.subscribe(options) : null);
      const keys = now?.toJSON();
      if (!keys) return;
      await fetch("/api/me/push", {
        method: "PUT",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ endpoint: keys.endpoint, p256dh: keys.keys?.p256dh, auth: keys.keys?.auth }),
      });
    })().catch(() => undefined), // the console tells it when it is opened next
  );
});

interface PushSubscriptionChangeEvent extends ExtendableEvent {
  readonly newSubscription: PushSubscription | null;
  readonly oldSubscription: PushSubscription | null;
}

/** Whether it is the console's own page, as the server says: nothing else is kept in its place. */
function isConsole(answer: Response): boolean {
  return answer.ok && !answer.redirected && answer.headers.get("Stoop-Page") === "console";
}

/** Keeps the page and what it begins with. Where that fails, it is kept when it is next loaded. */
async function fill(): Promise<void> {
  try {
    const answer = await fetch(page);
    if (!isConsole(answer)) return;
    const cache = await caches.open(shell);
    const text = await answer.clone().text();
    await cache.put(page, answer);
    const files = [...text.matchAll(/(?:src|href)="(\/assets\/[^"]+)"/g)].map((found) => found[1] ?? "");
    await cache.addAll(files);
  } catch {
    // Without it the console works as before.
  }
}

/** The page as the server has it, or as it was when the server does not answer in time. */
async function pageNow(event: FetchEvent): Promise<Response> {
  try {
    const answer = await fetch(event.request, { signal: AbortSignal.timeout(patience) });
    if (isConsole(answer)) event.waitUntil(keep(new Request(page), answer.clone()).catch(() => undefined));
    return answer;
  } catch (error) {
    const before = await caches.match(page, { cacheName: shell });
    if (before) return before;
    throw error;
  }
}

/** A file whose name says what is in it: kept once, and never asked for again. */
async function kept(event: FetchEvent): Promise<Response> {
  const { request } = event;
  const before = await caches.match(request, { cacheName: shell });
  if (before) return before;
  const answer = await fetch(request);
  // Whether it can be kept or not, the page has it now.
  if (answer.ok) event.waitUntil(keep(request, answer.clone()).catch(() => undefined));
  return answer;
}

async function keep(request: Request, answer: Response): Promise<void> {
  const cache = await caches.open(shell);
  await cache.put(request, answer);
  await prune(cache);
}

async function prune(cache: Cache): Promise<void> {
  const all = await cache.keys();
  const old = all.filter((r) => new URL(r.url).pathname !== page).slice(0, Math.max(0, all.length - most));
  await Promise.all(old.map((r) => cache.delete(r)));
}

export {};
