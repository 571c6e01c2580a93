import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { EventView, VisitorChatView } from "../../shared/types";
import { fakeWidget } from "./fake-widget";
import { Helping } from "./helping";
import { PanelStore } from "./store";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const words = {
  "helper.speaks": "You are speaking with our automatic helper.",
  "helper.beside": "Our automatic helper answers while you wait.",
  "helper.person": "Talk to a person",
  "helper.choices": "Choose one",
};
const said = (number: number, change: Partial<EventView> = {}): EventView => ({
  number,
  kind: "helper-said",
  side: "house",
  by: "",
  name: "",
  at: "2026-09-17T13:33:00Z",
  text: "Did this answer your question?",
  helper: { choices: ["Yes", "No"] },
  ...change,
});

function shown(events: EventView[], chat: Partial<VisitorChatView> = {}): PanelStore {
  const store = new PanelStore("ferries");
  store.state = {
    ...store.state,
    widget: fakeWidget({ words }),
    chat: { id: "c1", phase: "waiting", helper: true, ...chat } as VisitorChatView,
    log: { events, last: events.at(-1)?.number ?? 0 },
  };
  render(<Helping store={store} state={store.state} />);
  return store;
}

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it("what can be pressed is said once, and not pressed twice", () => {
  const store = shown([said(3)]);
  const say = vi.spyOn(store, "say").mockImplementation(() => undefined);
  fireEvent.click(screen.getByRole("button", { name: "No" }));
  expect(say).toHaveBeenCalledExactlyOnceWith("No");
  expect(screen.queryByRole("button", { name: "Yes" })).toBeNull();
});

it("choices of earlier words are gone as soon as something was said", () => {
  shown([
    said(3),
    said(4, { kind: "said", side: "visitor", text: "Something else", helper: undefined as never }),
  ]);
  expect(screen.queryByRole("group")).toBeNull();
});

it("a person is one press away, and a press that does not arrive says so", async () => {
  const store = shown([said(3)]);
  const change = vi
    .spyOn(store, "change")
    .mockRejectedValueOnce(new Error("lost"))
    .mockResolvedValueOnce(undefined);
  expect(screen.getByText(/You are speaking with our automatic helper/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Talk to a person" }));
  await screen.findByRole("alert");
  fireEvent.click(screen.getByRole("button", { name: "Talk to a person" }));
  await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  expect(change).toHaveBeenCalledTimes(2);
  expect(change).toHaveBeenCalledWith("person", 0);
});

it("beside the queue nobody needs to ask for a person: they wait for one", () => {
  shown([said(3)], { beside: true });
  expect(screen.getByText(/while you wait/)).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Talk to a person" })).toBeNull();
});
