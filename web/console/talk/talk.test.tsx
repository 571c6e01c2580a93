import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { RoomView, TalkView } from "../../shared/types";
import { draw, leave } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import TalkSheet from "./talk";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const room: RoomView = {
  id: "r1",
  name: "Freight",
  two: false,
  members: ["maren", "idris"],
  unseen: 2,
  seen: 0,
};
const said = (id: number, text: string, by = "idris"): TalkView => ({
  id,
  roomId: "r1",
  at: "2026-09-17T13:33:00Z",
  by,
  name: by === "idris" ? "Idris Vane" : "Maren Holt",
  text,
  clientId: `c${id}`,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/rooms", fine([room]));
  server.answers.set(
    "/api/rooms/r1/messages?before=0",
    fine([said(1, "The crane is down"), said(2, "Till noon")]),
  );
  server.answers.set("PUT /api/rooms/r1/seen", fine({}));
});

const sheet = (onClose = () => undefined) => <TalkSheet onClose={onClose} />;
const enter = async () => {
  const drawn = await draw(server, sheet());
  await drawn.user.click(await screen.findByRole("button", { name: /Freight/ }));
  await screen.findByText("Till noon");
  return drawn;
};
const lines = () =>
  within(screen.getByRole("log"))
    .getAllByRole("paragraph")
    .map((p) => p.textContent);
const field = () => screen.getByRole("textbox", { name: "Write to Freight" });

describe("the team talk", () => {
  it("says that visitors never see it, what is new, and who can be written to", async () => {
    await draw(server, sheet());
    expect(screen.getByText(/Never part of transcripts or reports/)).toBeTruthy();
    expect((await screen.findByLabelText("2 new")).textContent).toBe("2");
    expect(within(screen.getByRole("list", { name: "Colleagues" })).getByText("Idris Vane")).toBeTruthy();
    expect(within(screen.getByRole("list", { name: "Colleagues" })).queryByText("Maren Holt")).toBeNull();
  });

  it("shows a room's words in order, those that come meanwhile once, and marks them seen", async () => {
    const { live } = await enter();
    live.arrives({ type: "talk", message: said(3, "Now it runs") });
    live.arrives({ type: "talk", message: said(3, "Now it runs") });
    live.arrives({ type: "talk", message: { ...said(4, "Elsewhere"), roomId: "r2" } });
    await waitFor(() => expect(lines()).toEqual(["The crane is down", "Till noon", "Now it runs"]));
    await waitFor(() => expect(server.got("PUT /api/rooms/r1/seen").at(-1)).toEqual({ upTo: 3 }));
  });

  it("asks after a lost connection for what was said meanwhile, and marks nothing seen before it is read", async () => {
    const { live } = await enter();
    await waitFor(() => expect(server.got("PUT /api/rooms/r1/seen").at(-1)).toEqual({ upTo: 2 }));
    live.down();
    let answer: () => void = () => undefined;
    server.hold.set("GET /api/rooms/r1/messages?before=0", new Promise((done) => (answer = done)));
    server.answers.set(
      "/api/rooms/r1/messages?before=0",
      fine([said(1, "The crane is down"), said(2, "Till noon"), said(3, "Said meanwhile")]),
    );
    live.up();
    live.arrives({ type: "talk", message: said(4, "Now it runs") });
    await waitFor(() => expect(lines()).toContain("Now it runs"));
    expect(server.got("PUT /api/rooms/r1/seen").at(-1)).toEqual({ upTo: 2 });
    answer();
    await waitFor(() =>
      expect(lines()).toEqual(["The crane is down", "Till noon", "Said meanwhile", "Now it runs"]),
    );
    await waitFor(() => expect(server.got("PUT /api/rooms/r1/seen").at(-1)).toEqual({ upTo: 4 }));
  });

  it("sends by Enter; what is refused stays, and goes back before what is being typed", async () => {
    server.answers.set("POST /api/rooms/r1/messages", refused("You left this room"));
    const { user } = await enter();
    await user.type(field(), "Which gate?{Enter}");
    await screen.findByText("Not sent. You left this room.");
    await user.type(field(), "half a line");
    await user.click(screen.getByRole("button", { name: "Edit and resend" }));
    expect(field()).toHaveProperty("value", "Which gate?\nhalf a line");
  });

  it("keeps a draft for each room", async () => {
    const { user } = await enter();
    await user.type(field(), "half a line");
    leave();
    await enter();
    expect(field()).toHaveProperty("value", "half a line");
  });

  it("goes back by Esc from a room to all rooms, and from there away", async () => {
    const closed = vi.fn();
    const { user } = await draw(server, sheet(closed));
    await user.click(await screen.findByRole("button", { name: /Freight/ }));
    await screen.findByText("Till noon");
    await user.keyboard("{Escape}");
    expect(screen.getByRole("list", { name: "Rooms" })).toBeTruthy();
    expect(closed).not.toHaveBeenCalled();
    await user.keyboard("{Escape}");
    expect(closed).toHaveBeenCalled();
  });

  it("makes a room with a name and whoever is chosen", async () => {
    server.answers.set("POST /api/rooms", fine({ ...room, id: "r9", name: "Night" }));
    const { user } = await draw(server, sheet());
    await user.click(screen.getByRole("button", { name: "New room" }));
    const make = () => screen.getByRole("button", { name: "Create room" });
    expect(make()).toHaveProperty("disabled", true);
    await user.type(screen.getByRole("textbox", { name: "Name of the room" }), "Night");
    await user.click(screen.getByRole("checkbox", { name: "Idris Vane" }));
    await user.click(make());
    await waitFor(() =>
      expect(server.got("POST /api/rooms")).toEqual([{ members: ["idris"], name: "Night" }]),
    );
  });
});
