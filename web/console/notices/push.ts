import { api, ask } from "../../shared/api";
import type { Pushing } from "../../shared/types";

/** Under which this browser remembers for whom it lets itself be pushed. */
const forWhom = "stoop-push";

/** Whether this browser can be pushed at all. */
export function canBePushed(): boolean {
  return "serviceWorker" in navigator && "PushManager" in window && "Notification" in window;
}

/** Whether this browser was pushed for somebody when it was last here. */
export function isPushedFor(operator: string): boolean {
  return canBePushed() && localStorage.getItem(forWhom) === operator;
}

function base64url(key: ArrayBuffer | null): string {
  const letters = String.fromCharCode(...new Uint8Array(key ?? new ArrayBuffer(0)));
  return btoa(letters).replaceAll("+", "-").replaceAll("/", "_").replaceAll("=", "");
}

async function subscription(): Promise<PushSubscription | null> {
  const worker = await navigator.serviceWorker.getRegistration();
  return (await worker?.pushManager.getSubscription()) ?? null;
}

async function told(held: PushSubscription): Promise<Pushing> {
  const keys = held.toJSON();
  const body = {
    endpoint: held.endpoint,
    p256dh: keys.keys?.p256dh ?? "",
    auth: keys.keys?.auth ?? "",
  };
  return await ask(api.PUT("/api/me/push", { body }));
}

/** What keeps the console may never be there, as in a private window: that is told, not waited for. */
function tooLate(): Promise<never> {
  return new Promise((_, fail) =>
    setTimeout(() => fail(new DOMException("The worker is not there.", "TimeoutError")), patience),
  );
}

// How long the worker is waited for, in milliseconds.
const patience = 10_000;

/**
 * Lets this browser be pushed for somebody, after asking the person. Returns undefined when they,
 * or the browser, do not want it.
 */
export async function pushHere(operator: string, publicKey: string): Promise<Pushing | undefined> {
  if ((await Notification.requestPermission()) !== "granted") return undefined;
  const worker = await Promise.race([navigator.serviceWorker.ready, tooLate()]);
  const before = await worker.pushManager.getSubscription();
  const fits = before && base64url(before.options.applicationServerKey) === publicKey;
  if (before && !fits) await before.unsubscribe(); // it was for another key, as of a server set up anew
  const held = fits
    ? before
    : await worker.pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: publicKey });
  const mine = await told(held);
  localStorage.setItem(forWhom, operator);
  return mine;
}

/** Tells the server once more how this browser is pushed: it may have changed, or somebody logged in anew. */
export async function pushStillHere(operator: string): Promise<void> {
  if (!isPushedFor(operator)) return;
  const held = await subscription();
  if (held) await told(held);
  else localStorage.removeItem(forWhom); // the browser took it back
}

/** Lets this browser be pushed no more, whoever it was for. */
export async function pushNoMore(): Promise<void> {
  localStorage.removeItem(forWhom);
  if (canBePushed()) await (await subscription())?.unsubscribe();
}
