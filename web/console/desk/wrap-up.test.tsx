import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView } from "../../shared/types";
import { draw, leave, OfChat } from "./drawn";
import { EndedFoot } from "./ended-foot";
import { chat, FakeServer, fine, refused } from "./fake-desk";
import { Outcome } from "./outcome";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const ended = (change: Partial<ChatView> = {}) =>
  chat("wren", {
    name: "Wren Castellane",
    phase: "ended",
    ending: "answered",
    endedAt: "2026-09-17T13:40:00Z",
    ownerId: "maren",
    ...change,
  });

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [ended()];
  server.answers.set("/api/chats/wren/about", fine({ tags: ["ramp", "cabin"], earlier: [], notes: [] }));
});

const foot = <OfChat id="wren">{(c) => <EndedFoot chat={c} focused />}</OfChat>;
const sale = () => screen.getByRole("textbox", { name: /Sale/ });

describe("the outcome", () => {
  it("keeps a lane open where the department wants one, until there is one", async () => {
    server.desk.chats = [ended({ needsOutcome: true })];
    server.answers.set("PUT /api/chats/wren/outcome", fine(ended({ outcome: "Sold" })));
    const { user, store } = await draw(server, foot);
    const close = () => screen.getByRole("button", { name: /Close lane|Done/ });
    expect(close()).toHaveProperty("disabled", true);
    expect(screen.getByText("Travel help needs an outcome before you close the lane.")).toBeTruthy();
    await user.click(screen.getByRole("radio", { name: "Sold" }));
    await waitFor(() => expect(close()).toHaveProperty("disabled", false));
    await user.click(close());
    expect(store.stores.chats.getState().chats.size).toBe(0);
  });

  it("of former times stays in the list when the team has it no more", async () => {
    server.desk.chats = [ended({ outcome: "Rebooked" })];
    await draw(server, foot);
    expect(screen.getByRole("radio", { name: "Rebooked" })).toHaveProperty("checked", true);
    expect(screen.getByRole("radio", { name: "Answered" })).toHaveProperty("checked", false);
  });

  it("says so when it could not be stored", async () => {
    server.answers.set("PUT /api/chats/wren/outcome", refused("You do not own this chat"));
    const { user } = await draw(server, foot);
    await user.click(screen.getByRole("radio", { name: "Sold" }));
    await screen.findByText(/You do not own this chat/);
    expect(screen.getByRole("radio", { name: "Sold" })).toHaveProperty("checked", false);
  });
});

describe("the sale", () => {
  const stored = (body: unknown) => fine(ended(body as Partial<ChatView>));

  it.each([
    ["412.80", 41280],
    ["412,8", 41280],
    ["1", 100],
  ])("is read as people write amounts: %s", async (typed, cents) => {
    server.answers.set("PUT /api/chats/wren/outcome", stored);
    const { user } = await draw(server, foot);
    await user.type(sale(), `${typed}{Enter}`);
    await waitFor(() =>
      expect(server.got("PUT /api/chats/wren/outcome")).toEqual([{ sale: { cents, currency: "EUR" } }]),
    );
  });

  it("that is none is refused with an example, stays typed, and is asked of nobody", async () => {
    const { user } = await draw(server, foot);
    await user.type(sale(), "four hundred");
    await user.tab();
    expect((await screen.findByRole("alert")).textContent).toBe("Enter an amount like 412.80.");
    expect(sale()).toHaveProperty("value", "four hundred");
    expect(server.sent).toEqual([]);
  });

  it("half typed is there again after another lane was looked at", async () => {
    const { user } = await draw(server, foot);
    await user.type(sale(), "41");
    leave();
    await draw(server, foot);
    expect(sale()).toHaveProperty("value", "41");
  });

  it("stands alike in the lane and in About while it is typed", async () => {
    const { user } = await draw(
      server,
      <OfChat id="wren">
        {(c) => (
          <>
            <Outcome chat={c} />
            <Outcome chat={c} />
          </>
        )}
      </OfChat>,
    );
    const fields = screen.getAllByRole("textbox", { name: /Sale/ });
    await user.type(fields[0] as HTMLElement, "12.5");
    expect(fields[1]).toHaveProperty("value", "12.5");
  });

  it("is asked of the server alone, whatever outcome is chosen at the same time", async () => {
    server.answers.set("PUT /api/chats/wren/outcome", stored);
    const { user } = await draw(server, foot);
    await user.type(sale(), "41");
    await user.click(screen.getByRole("radio", { name: "Sold" }));
    await waitFor(() => expect(server.got("PUT /api/chats/wren/outcome")).toHaveLength(2));
    expect(server.got("PUT /api/chats/wren/outcome")).toEqual([
      { sale: { cents: 4100, currency: "EUR" } },
      { outcome: "Sold" },
    ]);
  });

  it.each([
    ["JPY", "4120", 4120],
    ["ISK", "990", 990],
    ["KWD", "1.250", 1250],
  ])("has as many digits as its currency: %s", async (currency, typed, cents) => {
    server.desk.currency = currency;
    server.answers.set("PUT /api/chats/wren/outcome", stored);
    const { user } = await draw(server, foot);
    await user.type(sale(), `${typed}{Enter}`);
    await waitFor(() =>
      expect(server.got("PUT /api/chats/wren/outcome")).toEqual([{ sale: { cents, currency } }]),
    );
  });

  it("is taken away by emptying the field", async () => {
    server.desk.chats = [ended({ outcome: "Sold", sale: { cents: 500, currency: "EUR" } })];
    server.answers.set("PUT /api/chats/wren/outcome", stored);
    const { user } = await draw(server, foot);
    expect(sale()).toHaveProperty("value", "5.00");
    await user.clear(sale());
    await user.tab();
    await waitFor(() => expect(server.got("PUT /api/chats/wren/outcome")).toEqual([{ noSale: true }]));
  });
});

describe("tags and summary", () => {
  it("come by Enter, offer those in use, and go by their cross", async () => {
    server.desk.chats = [ended({ tags: ["ramp"] })];
    server.answers.set("POST /api/chats/wren/tags", (body) => {
      const { tag, on } = body as { tag: string; on: boolean };
      return fine(ended({ tags: on ? ["ramp", tag] : [tag].filter((t) => t !== "ramp") }));
    });
    const { user } = await draw(server, foot);
    const field = screen.getByRole("combobox", { name: "Add a tag" });
    await user.click(field);
    await waitFor(async () => {
      await user.keyboard("{ArrowDown}");
      expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["cabin"]);
    });
    await user.type(field, " wheelchair {Enter}");
    await screen.findByRole("button", { name: "Remove the tag wheelchair" });
    expect(server.got("POST /api/chats/wren/tags")).toEqual([{ tag: "wheelchair", on: true }]);
    expect(field).toHaveProperty("value", "");
    await user.click(screen.getByRole("button", { name: "Remove the tag ramp" }));
    await waitFor(() => expect(screen.queryByText("ramp")).toBeNull());
  });

  it("that were refused stand in the field again", async () => {
    server.answers.set("POST /api/chats/wren/tags", refused("A chat has at most 20 tags"));
    const { user } = await draw(server, foot);
    const field = screen.getByRole("combobox", { name: "Add a tag" });
    await user.type(field, "wheelchair{Enter}");
    await screen.findByText(/at most 20 tags/);
    expect(field).toHaveProperty("value", "wheelchair");
  });

  it("summary that is typed on while it is being stored is stored whole", async () => {
    let answer: () => void = () => undefined;
    const hold = () => new Promise<void>((done) => (answer = done));
    server.hold.set("PUT /api/chats/wren/summary", hold());
    server.answers.set("PUT /api/chats/wren/summary", (body) =>
      fine(ended({ summary: (body as { text: string }).text })),
    );
    const { user, store } = await draw(server, foot);
    const field = () => screen.getByRole("textbox", { name: "Summary" });
    await user.type(field(), "Asked for the ramp");
    await user.tab();
    await user.type(field(), " at Sandry");
    answer();
    await waitFor(() =>
      expect(store.stores.chats.getState().chats.get("wren")?.summary).toBe("Asked for the ramp"),
    );
    server.hold.clear();
    expect(field()).toHaveProperty("value", "Asked for the ramp at Sandry");
    await user.tab();
    await waitFor(() => expect(localStorage.getItem("stoop.desk.summary.wren")).toBeNull());
    expect(server.got("PUT /api/chats/wren/summary").at(-1)).toEqual({
      text: "Asked for the ramp at Sandry",
    });
  });

  it("summary is stored when its field is left, and kept when that fails", async () => {
    server.answers.set("PUT /api/chats/wren/summary", refused("No"));
    const { user } = await draw(server, foot);
    const field = screen.getByRole("textbox", { name: "Summary" });
    await user.type(field, "Asked for the ramp{Enter}");
    await screen.findByText(/^No\./);
    leave();
    server.answers.set("PUT /api/chats/wren/summary", (body) =>
      fine(ended({ summary: (body as { text: string }).text })),
    );
    const again = await draw(server, foot);
    expect(screen.getByRole("textbox", { name: "Summary" })).toHaveProperty("value", "Asked for the ramp");
    await again.user.click(screen.getByRole("textbox", { name: "Summary" }));
    await again.user.tab();
    await waitFor(() => expect(localStorage.getItem("stoop.desk.summary.wren")).toBeNull());
    await waitFor(() =>
      expect(screen.getByRole("textbox", { name: "Summary" })).toHaveProperty("value", "Asked for the ramp"),
    );
  });
});

describe("a chat that ended under one's hand", () => {
  it("shows what was typed and never sent, to copy or to throw away", async () => {
    localStorage.setItem("stoop.desk.draft.wren", "You can board from");
    const { user } = await draw(server, foot);
    expect(screen.getByText("You can board from")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Copy" }));
    await screen.findByText("Copied");
    expect(await navigator.clipboard.readText()).toBe("You can board from");
    await user.click(screen.getByRole("button", { name: "Discard" }));
    expect(screen.queryByText("You can board from")).toBeNull();
    expect(localStorage.getItem("stoop.desk.draft.wren")).toBeNull();
  });

  it("shows a note that was being written, too", async () => {
    localStorage.setItem("stoop.desk.note-draft.wren", "A regular");
    await draw(server, foot);
    expect(screen.getByText("A regular").closest("p")?.textContent).toContain("Note not saved");
  });

  it("asks no wrap-up for what was missed, or for a colleague's chat", async () => {
    server.desk.chats = [ended({ ending: "missed" })];
    await draw(server, foot);
    expect(screen.queryByRole("group", { name: "Wrap-up" })).toBeNull();
  });

  it("tells how long the wrap-up counts, and ends it when the lane is done", async () => {
    server.desk.chats = [ended({ wrapUntil: new Date(Date.now() + 60_000).toISOString() })];
    server.answers.set("POST /api/chats/wren/wrap-up", fine(ended()));
    const { user } = await draw(server, foot);
    expect(screen.getByText(/Wrap-up: counts as a chat for/).textContent).toMatch(/for (0:59|1:0[01])$/);
    await user.click(screen.getByRole("button", { name: "Done" }));
    await waitFor(() => expect(server.sent.map((s) => s.what)).toEqual(["POST /api/chats/wren/wrap-up"]));
  });
});
