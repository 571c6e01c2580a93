import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView } from "../../shared/types";
import { draw, OfChat } from "./drawn";
import { chat, FakeServer, fine, place, refused, said } from "./fake-desk";
import { Lane } from "./lane";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const byText = (change: Partial<ChatView> = {}) =>
  chat("wren", {
    phase: "active",
    ownerId: "maren",
    name: "",
    way: { kind: "text", address: "+44 7700 900451", line: "Text messages" },
    ways: ["site", "email"],
    ...change,
  });

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [byText()];
  server.answers.set("/api/translator", fine({ languages: [], shownSoon: false }));
  server.answers.set("/api/chats/wren?after=0", () =>
    fine({ chat: server.desk.chats[0], place: place("v", { here: false }), events: [said(1, "Hello")] }),
  );
  server.answers.set("/api/chats/wren/about", fine({ tags: [], earlier: [], notes: [] }));
  server.answers.set("POST /api/channels/measure", () =>
    fine({ parts: 12, most: 10, left: 3, because: "🐟" }),
  );
});

const lane = <OfChat id="wren">{(c) => <Lane chat={c} number={1} focused />}</OfChat>;

const drawn = () => draw(server, lane, { answer: ({ method }) => (method === "suggest" ? [] : undefined) });

describe("a lane by text message", () => {
  it("goes by the number, takes no files, and says when the words are too many", async () => {
    const { user } = await drawn();
    expect(screen.getByRole("heading", { name: "+44 7700 900451" })).toBeDefined();
    await screen.findByText(/no files, no typing shown/);
    expect(screen.getByRole("button", { name: /^Attach files/ })).toHaveProperty("disabled", true);
    expect(screen.queryByText("not typing")).toBeNull();
    const field = screen.getByRole("textbox", { name: /^Reply to 1/ });
    await user.type(field, "Long words");
    await screen.findByText("12 text messages; 10 at the most");
    await user.upload(screen.getByLabelText(/^Files for/), new File(["x"], "plan.pdf"));
    await screen.findByText(/Text messages carry no files/);
    expect(field).toHaveProperty("value", "Long words");
  });

  it("warns when they sent STOP", async () => {
    server.desk.chats = [byText({ way: { kind: "text", address: "+44 7700 900451", stopped: true } })];
    await drawn();
    await screen.findByText(/They sent STOP/);
  });

  it("asks to go on by another way, and says why that cannot be", async () => {
    server.answers.set("POST /api/chats/wren/go-on", refused("They are not on the site"));
    const { user } = await drawn();
    await user.click(await screen.findByRole("button", { name: "More" }));
    await user.click(await screen.findByRole("menuitem", { name: "Ask to continue by email" }));
    await screen.findByText(/They are not on the site/);
    server.answers.set("POST /api/chats/wren/go-on", () => {
      server.desk.chats = [byText({ askedWay: "email" })];
      return fine(server.desk.chats[0]);
    });
    await user.click(screen.getByRole("button", { name: "More" }));
    expect(screen.queryByRole("menuitem", { name: "Look along" })).toBeNull();
    await user.click(await screen.findByRole("menuitem", { name: "Ask to continue by email" }));
    await waitFor(() =>
      expect(server.got("POST /api/chats/wren/go-on")).toEqual([{ kind: "email" }, { kind: "email" }]),
    );
  });
});
