import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { chat, FakeServer } from "../desk/fake-desk";
import { Heard } from "./heard";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

beforeEach(() => localStorage.clear());

const until = "2026-09-17T13:34:00Z";

it("reads out an offer that is there when the console is loaded", async () => {
  const server = new FakeServer();
  server.desk.chats = [chat("Wren", { offeredTo: "maren", offeredUntil: until })];
  await draw(server, <Heard />);
  expect(screen.getByRole("alert", { name: "Offers and calls" }).textContent).toBe("Wren is offered to you.");
});

it("reads out offers at once and arrivals in their turn, and nothing that was there before", async () => {
  const server = new FakeServer();
  server.desk.chats = [chat("Oskar")];
  const { live } = await draw(server, <Heard />);
  const urgent = screen.getByRole("alert", { name: "Offers and calls" });
  const calm = screen.getByRole("status", { name: "Arrivals" });
  expect(urgent.textContent + calm.textContent).toBe("");
  live.arrives({ type: "chat", chat: chat("Petra"), events: [] });
  await waitFor(() => expect(calm.textContent).toBe("Petra is waiting for Travel help."));
  live.arrives({
    type: "chat",
    chat: chat("Wren", { offeredTo: "maren", offeredUntil: until }),
    events: [],
  });
  await waitFor(() => expect(urgent.textContent).toBe("Wren is offered to you."));
  live.arrives({
    type: "chat",
    chat: chat("Tam", {
      phase: "active",
      ownerId: "idris",
      ownerName: "Idris Vane",
      callDepartmentId: "help",
    }),
    events: [],
  });
  await waitFor(() => expect(urgent.textContent).toBe("Idris Vane asks for help with Tam."));
});
