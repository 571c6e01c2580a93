// Keeps the console's own files, so that it opens without a network and asks again by itself.
// Nothing that anybody said or that the server knows is kept: only what is the same for all.

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
