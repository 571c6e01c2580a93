import { beforeEach, describe, expect, it, vi } from "vitest";

type Handler = (event: unknown) => void;

// The worker's own world: what it listens to, the console's windows, and what it shows.
const handlers = new Map<string, Handler>();
const shown = vi.fn(() => Promise.resolve());
const opened = vi.fn(() => Promise.resolve(null));
let windows: { url: string; focus: () => Promise<void>; postMessage: (m: unknown) => void }[] = [];
const subscribe = vi.fn();

function open(url: string) {
  const w = { url, focus: vi.fn(() => Promise.resolve()), postMessage: vi.fn() };
  windows.push(w);
  return w;
}

/** Hands an event in and waits for what it begins. */
async function happens(name: string, event: object): Promise<void> {
  let until: Promise<unknown> = Promise.resolve();
  handlers.get(name)?.({ ...event, waitUntil: (p: Promise<unknown>) => (until = p) });
  await until;
}

const click = (data: unknown) =>
  happens("notificationclick", { notification: { data, close: () => undefined } });

beforeEach(async () => {
  vi.resetModules();
  handlers.clear();
  windows = [];
  for (const f of [shown, opened, subscribe]) f.mockClear();
  vi.stubGlobal("self", {
    addEventListener: (name: string, handler: Handler) => handlers.set(name, handler),
    location: { origin: "https://chat.example.com" },
    registration: { showNotification: shown, pushManager: { subscribe } },
    clients: { matchAll: () => Promise.resolve(windows), openWindow: opened },
  });
  await import("./worker");
});

describe("what is pushed", () => {
  it("is shown, one in the place of another that is about the same", async () => {
    await happens("push", {
      data: {
        json: () => ({ title: "Wren is waiting", body: "Bookings", tag: "waiting", path: "/desk?chat=c1" }),
      },
    });
    expect(shown).toHaveBeenCalledWith("Wren is waiting", {
      body: "Bookings",
      icon: "/icon-192.png",
      data: "/desk?chat=c1",
      tag: "waiting",
      renotify: true,
    });
  });

  it("is shown as something even when it cannot be read: who shows nothing loses the right to", async () => {
    await happens("push", { data: null });
    await happens("push", {
      data: {
        json: () => {
          throw new SyntaxError("not JSON");
        },
      },
    });
    expect(shown.mock.calls.map(([title]: unknown[]) => title)).toEqual(["Stoop", "Stoop"]);
  });
});

describe("a click on it", () => {
  it("brings the console to the front where it is open, and leads it there", async () => {
    const panel = open("https://chat.example.com/panel?key=1");
    const lane = open("https://chat.example.com/lane/c9");
    const desk = open("https://chat.example.com/tickets");
    await click("/desk?chat=c1");
    expect(desk.focus).toHaveBeenCalled();
    expect(desk.postMessage).toHaveBeenCalledWith({ open: "/desk?chat=c1" });
    for (const other of [panel, lane]) expect(other.focus).not.toHaveBeenCalled();
    expect(opened).not.toHaveBeenCalled();
  });

  it("opens the console where it is not, and nothing that is not of Stoop", async () => {
    await click("/floor");
    for (const elsewhere of ["//evil.example", "https://evil.example", 7, undefined]) await click(elsewhere);
    expect(opened.mock.calls).toEqual([["/floor"], ["/desk"], ["/desk"], ["/desk"], ["/desk"]]);
  });
});

it("tells the server when the browser changes its address by itself", async () => {
  const asked = vi.fn(() => Promise.resolve(new Response()));
  vi.stubGlobal("fetch", asked);
  const keys = { endpoint: "https://push.example/2", keys: { p256dh: "p", auth: "a" } };
  subscribe.mockResolvedValue({ toJSON: () => keys });
  await happens("pushsubscriptionchange", {
    newSubscription: null,
    oldSubscription: { options: { userVisibleOnly: true } },
  });
  expect(subscribe).toHaveBeenCalledWith({ userVisibleOnly: true });
  const [path, request] = asked.mock.calls[0] as unknown as [string, RequestInit];
  expect(path).toBe("/api/me/push");
  expect(JSON.parse(request.body as string)).toEqual({
    endpoint: "https://push.example/2",
    p256dh: "p",
    auth: "a",
  });
  await happens("pushsubscriptionchange", { newSubscription: null, oldSubscription: null });
  expect(asked).toHaveBeenCalledTimes(1);
});
