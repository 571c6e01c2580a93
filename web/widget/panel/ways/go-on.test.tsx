import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { ProblemError } from "../../../shared/problem";
import type { EventView, VisitorChatView } from "../../../shared/types";
import { fakeWidget } from "../fake-widget";
import { PanelStore } from "../store";
import GoOn from "./go-on";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const event = (number: number, kind: EventView["kind"], change: Partial<EventView> = {}) =>
  ({ number, kind, side: "team", name: "Maren Holt", at: "2026-09-17T13:33:00Z", ...change }) as EventView;

function shown(asked: VisitorChatView["askedWay"], answer: () => Promise<unknown>, more: EventView[] = []) {
  const store = new PanelStore("ferries");
  const change = vi.spyOn(store, "change").mockImplementation(answer);
  const events = [event(3, "channel-asked", { way: { kind: "text" } }), ...more];
  store.state = {
    ...store.state,
    widget: fakeWidget(),
    chat: { id: "c1", phase: "active", email: "", ...(asked ? { askedWay: asked } : {}) } as VisitorChatView,
    log: { events, last: events.at(-1)?.number ?? 0 },
  };
  render(<GoOn store={store} state={store.state} />);
  return change;
}

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it("shows the code to send, and asks again for one that did not come", async () => {
  let answer = () => Promise.reject(new Error("lost"));
  const change = shown("text", () => answer());
  await screen.findByRole("alert");
  answer = (() =>
    Promise.resolve({
      number: "+447700900100",
      shown: "+44 7700 900100",
      code: "K7F2QXYZ",
    })) as unknown as typeof answer;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  await screen.findByText("K7F2QXYZ");
  expect(screen.queryByRole("alert")).toBeNull();
  expect(screen.getByRole("link", { name: "Open my messages" }).getAttribute("href")).toBe(
    "sms:+447700900100?body=K7F2QXYZ",
  );
  expect(screen.getByText(/Maren suggests that we continue by text message/)).toBeDefined();
  fireEvent.click(screen.getByRole("button", { name: "No, stay here" }));
  expect(change).toHaveBeenLastCalledWith("stay", 0, { kind: "text" });
});

it("keeps an address that is refused, with the word at it", async () => {
  const fields = [{ field: "email", words: "This does not look like an email address." }];
  const change = shown("email", () =>
    Promise.reject(
      new ProblemError({
        code: "bad-fields",
        title: "",
        detail: "",
        status: 422,
        retry: false,
        fields,
      } as never),
    ),
  );
  const field = screen.getByRole("textbox");
  fireEvent.input(field, { target: { value: "wren at example.org" } });
  fireEvent.click(screen.getByRole("button", { name: "Continue by email" }));
  await screen.findByText("This does not look like an email address.");
  expect(change).toHaveBeenLastCalledWith("go-on-by-mail", 0, { email: "wren at example.org" });
  expect(field).toHaveProperty("value", "wren at example.org");
});

it("says that it goes on elsewhere until somebody writes here again", () => {
  const moved = event(4, "channel-moved", { side: "visitor", how: "accepted", way: { kind: "text" } });
  shown(undefined, () => Promise.resolve(), [moved]);
  expect(screen.getByRole("status").textContent).toContain("We continue by text message");
  cleanup();
  shown(undefined, () => Promise.resolve(), [moved, event(5, "said", { side: "visitor", text: "Back" })]);
  expect(screen.queryByRole("status")).toBeNull();
});
