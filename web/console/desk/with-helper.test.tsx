import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { ChatView, EventView } from "../../shared/types";
import { draw } from "./drawn";
import { chat, FakeServer, fine, place } from "./fake-desk";
import { Line } from "./line";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const helper = {
  name: "First answers",
  on: true,
  beside: false,
  answers: [{ name: "length", label: "Length", value: "9.5" }],
  answered: true,
};
const withIt = (id: string, change: Partial<ChatView> = {}): ChatView =>
  chat(id, { name: id, lineOf: ["help"], turn: "nobody", helper, hasFlow: true, ...change });
const event = (
  number: number,
  kind: EventView["kind"],
  side: EventView["side"],
  text: string,
): EventView => ({
  number,
  kind,
  side,
  text,
  at: "2026-09-17T13:33:00Z",
  by: "",
  name: side === "visitor" ? "Wren" : "",
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

it("chats with the helper wait for nobody and stand by themselves", async () => {
  server.desk.chats = [withIt("Wren"), chat("Oskar", { name: "Oskar", lineOf: ["help"] })];
  await draw(server, <Line shown={[]} />);
  const list = await screen.findByRole("list", { name: "Visitors with the helper" });
  expect(within(list).getByText("Wren")).toBeTruthy();
  expect(within(screen.getByRole("list", { name: "Waiting visitors" })).queryByText("Wren")).toBeNull();
  expect(within(screen.getByRole("list", { name: "Waiting visitors" })).getByText("Oskar")).toBeTruthy();
});

it("shows what was said and collected, and lets one step in or stop the helper", async () => {
  const wren = withIt("Wren");
  server.desk.chats = [wren];
  server.answers.set("GET /api/chats/Wren?after=0", () =>
    fine({
      chat: wren,
      place: place("visitor-Wren"),
      events: [
        event(1, "started", "visitor", ""),
        event(2, "said", "visitor", "How long may my lorry be?"),
        event(3, "helper-said", "house", "Up to 18.75 m."),
      ],
    }),
  );
  const asked: string[] = [];
  server.answers.set("POST /api/chats/Wren/helper/pause", () => {
    asked.push("pause");
    return fine(withIt("Wren", { helper: { ...helper, on: false }, turn: "team" }));
  });
  const { user, live } = await draw(server, <Line shown={[]} />);
  await user.click(await screen.findByRole("button", { name: /Wren/ }));
  expect(await screen.findByText(/Up to 18.75 m/)).toBeTruthy();
  expect(screen.getByText("9.5")).toBeTruthy();
  await user.click(screen.getByRole("button", { name: "Stop the helper" }));
  await waitFor(() => expect(asked).toEqual(["pause"]));
  live.arrives({
    type: "chat",
    chat: withIt("Wren", { last: 4, helper: { ...helper, on: false }, turn: "team" }),
    events: [],
  });
  await waitFor(() => expect(screen.queryByRole("list", { name: "Visitors with the helper" })).toBeNull());
  expect(within(screen.getByRole("list", { name: "Waiting visitors" })).getByText("Wren")).toBeTruthy();
});
