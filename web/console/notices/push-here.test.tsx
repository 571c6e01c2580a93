import { screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Pushing } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, maren, refused } from "../desk/fake-desk";
import { pushNoMore, pushStillHere } from "./push";
import { PushHere } from "./push-here";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const key = btoa("k".repeat(65)).replaceAll("=", "");
const none: Pushing = { publicKey: key, devices: [] };
const since = "2026-11-29T10:00:00Z";
const phone = { id: "d2", device: "Safari, iOS", since, this: false };
const here = { id: "d1", device: "Chrome, Linux", since, this: true };

/** A browser's own registration, as far as the console asks of it. */
class Browser {
  held: object | null = null;
  asked: object[] = [];
  fails: Error | undefined;
  permission: NotificationPermission = "granted";
  manager = {
    getSubscription: () => Promise.resolve(this.held),
    subscribe: (options: { applicationServerKey: string }) => {
      if (this.fails) return Promise.reject(this.fails);
      this.asked.push(options);
      const bytes = Uint8Array.from(
        atob(options.applicationServerKey.replaceAll("-", "+").replaceAll("_", "/")),
        (c) => c.charCodeAt(0),
      );
      this.held = {
        endpoint: "https://push.example/1",
        options: { applicationServerKey: bytes.buffer },
        toJSON: () => ({ keys: { p256dh: "p", auth: "a" } }),
        unsubscribe: () => {
          this.held = null;
          return Promise.resolve(true);
        },
      };
      return Promise.resolve(this.held);
    },
  };
}

let server: FakeServer;
let browser: Browser;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  browser = new Browser();
  const registration = { pushManager: browser.manager };
  vi.stubGlobal("PushManager", () => undefined);
  vi.stubGlobal("Notification", { requestPermission: () => Promise.resolve(browser.permission) });
  Object.defineProperty(navigator, "serviceWorker", {
    configurable: true,
    value: { ready: Promise.resolve(registration), getRegistration: () => Promise.resolve(registration) },
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  Reflect.deleteProperty(navigator, "serviceWorker");
});

const begin = () => screen.findByRole<HTMLButtonElement>("button", { name: "Tell me on this device" });
const ready = async () => {
  const button = await begin();
  await waitFor(() => expect(button.disabled).toBe(false));
  return button;
};

describe("being told on a device", () => {
  it("begins by asking the browser for the team's key, can be tried, and ends on both sides", async () => {
    const put = vi.fn(() => fine({ ...none, devices: [here] }));
    const ended = vi.fn(() => fine(undefined));
    server.answers.set("GET /api/me/push", () => fine(none));
    server.answers.set("PUT /api/me/push", put);
    server.answers.set("POST /api/me/push/d1/test", () =>
      refused("The push service did not take the message"),
    );
    server.answers.set("DELETE /api/me/push/d1", ended);
    const { user } = await draw(server, <PushHere />);
    await user.click(await ready());
    await screen.findByText(/^This device/);
    expect(browser.asked).toEqual([{ userVisibleOnly: true, applicationServerKey: key }]);
    expect(put.mock.calls).toEqual([[{ endpoint: "https://push.example/1", p256dh: "p", auth: "a" }]]);
    await user.click(screen.getByRole("button", { name: /^Send a test/ }));
    expect((await screen.findByRole("alert")).textContent).toContain("did not take the message");
    await user.click(screen.getByRole("button", { name: /^Stop/ }));
    await begin();
    expect(ended).toHaveBeenCalled();
    expect(browser.held).toBeNull();
  });

  it("says why it cannot be: not allowed, or no push service", async () => {
    server.answers.set("GET /api/me/push", () => fine({ ...none, devices: [phone] }));
    browser.permission = "denied";
    const { user } = await draw(server, <PushHere />);
    await user.click(await ready());
    expect((await screen.findByRole("alert")).textContent).toMatch(/Blocked by this browser/);
    browser.permission = "granted";
    browser.fails = new DOMException("Registration failed - push service error", "AbortError");
    await user.click(await ready());
    await waitFor(() =>
      expect(screen.getByRole("alert").textContent).toMatch(/could not reach its push service/),
    );
    expect(screen.getByText(/Safari, iOS/)).toBeDefined();
  });

  it("says what to do where the browser cannot be told", async () => {
    vi.unstubAllGlobals();
    server.answers.set("GET /api/me/push", () => fine(none));
    await draw(server, <PushHere />);
    await screen.findByText(/This browser cannot be told/);
  });

  it("asks anew where the key is another than the browser knows", async () => {
    server.answers.set("GET /api/me/push", () => fine(none));
    server.answers.set("PUT /api/me/push", () => fine({ ...none, devices: [here] }));
    await browser.manager.subscribe({ applicationServerKey: btoa("o".repeat(65)).replaceAll("=", "") });
    const { user } = await draw(server, <PushHere />);
    await user.click(await ready());
    await screen.findByText(/^This device/);
    expect(browser.asked).toHaveLength(2);
  });
});

describe("a browser that several people use", () => {
  it("is told to the server again for who wanted it, and for nobody else", async () => {
    const put = vi.fn(() => fine({ ...none, devices: [here] }));
    server.answers.set("GET /api/me/push", () => fine(none));
    server.answers.set("PUT /api/me/push", put);
    const { user } = await draw(server, <PushHere />);
    await user.click(await ready());
    await screen.findByText(/^This device/);
    await pushStillHere("somebody-else");
    expect(put).toHaveBeenCalledTimes(1);
    await pushStillHere(maren.id);
    expect(put).toHaveBeenCalledTimes(2);
    await pushNoMore();
    await pushStillHere(maren.id);
    expect(put).toHaveBeenCalledTimes(2);
    expect(browser.held).toBeNull();
  });
});
