import { act, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView } from "../../shared/types";
import { draw, type Drawn } from "./drawn";
import { chat, FakeServer, fine, place, refused } from "./fake-desk";
import { Line } from "./line";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

/** A chat that waits since so many minutes before half past one. */
const waits = (id: string, minutes: number, change: Partial<ChatView> = {}) => {
  const since = new Date(Date.parse("2026-09-17T13:30:00Z") - minutes * 60_000).toISOString();
  return chat(id, { name: id, arrived: since, since, startedAt: since, turnSince: since, ...change });
};
const later = () => new Date(Date.now() + 20_000).toISOString();

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const line = () => draw(server, <Line shown={[]} />);
const list = (name: string) => screen.getByRole("list", { name });
const names = (name: string) =>
  within(list(name))
    .getAllByRole("listitem")
    .map((li) => li.querySelector(".name")?.textContent);
const arrives = ({ live }: Drawn, chats: ChatView[]) => {
  for (const c of chats) live.arrives({ type: "chat", chat: c, events: [] });
};

describe("the waiting visitors", () => {
  it("stand still under the pointer: whoever comes meanwhile stands at the end", async () => {
    server.desk.chats = [waits("Wren", 1), waits("Oskar", 2)];
    const drawn = await line();
    expect(names("Waiting visitors")).toEqual(["Oskar", "Wren"]);
    await drawn.user.hover(list("Waiting visitors"));
    arrives(drawn, [waits("Tilda", 9)]);
    await waitFor(() => expect(names("Waiting visitors")).toEqual(["Oskar", "Wren", "Tilda"]));
    await drawn.user.unhover(screen.getByRole("complementary", { name: "The line" }));
    await waitFor(() => expect(names("Waiting visitors")).toEqual(["Tilda", "Oskar", "Wren"]));
  });

  it("who left the page are told apart from who is there", async () => {
    server.desk.chats = [waits("Wren", 1), waits("Oskar", 2)];
    server.desk.places = [place("visitor-Wren"), place("visitor-Oskar", { here: false })];
    await line();
    const cards = within(list("Waiting visitors")).getAllByRole("listitem");
    expect(cards[0]?.textContent).toContain("left the site");
    expect(cards[1]?.textContent).not.toContain("left the site");
  });

  it("whom a colleague is being asked for cannot be taken from them, and are not the next", async () => {
    server.desk.chats = [
      waits("Oskar", 2, { offeredTo: "idris", offeredToName: "Idris Vane", offeredUntil: later() }),
      waits("Wren", 1),
    ];
    server.answers.set("POST /api/chats/Wren/take?anyway=false", fine(waits("Wren", 1, { phase: "active" })));
    const { user } = await line();
    expect(screen.getByRole("button", { name: /Oskar/ })).toHaveProperty("disabled", true);
    expect(screen.getByText(/Asking Idris/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: /^Take next/ }));
    await waitFor(() =>
      expect(server.sent.map((s) => s.what)).toEqual(["POST /api/chats/Wren/take?anyway=false"]),
    );
  });

  it("are drawn in parts when they are many, and none is out of reach", async () => {
    server.desk.chats = Array.from({ length: 95 }, (_, i) => waits(`v${i}`, 100 - i));
    const { user } = await line();
    expect(screen.getByRole("heading", { name: "Waiting" }).nextSibling?.textContent).toBe("95");
    const more = () => screen.queryByRole("button", { name: /Show more/ });
    expect(more()?.textContent).toBe("Show more: 55 further back");
    await user.click(more() as HTMLElement);
    await user.click(more() as HTMLElement);
    expect(more()).toBeNull();
    expect(names("Waiting visitors").at(-1)).toBe("v94");
  });

  it("are none: says so, and says that one is away", async () => {
    server.desk.me = { ...server.desk.me, available: false };
    await line();
    expect(screen.getByText("Nobody is waiting. You are away.")).toBeTruthy();
    expect(screen.getByRole("button", { name: /^Take next/ })).toHaveProperty("disabled", true);
  });
});

describe("an offer", () => {
  const offered = (change: Partial<ChatView> = {}) =>
    waits("Wren", 1, { offeredTo: "maren", offeredToName: "Maren Holt", offeredUntil: later(), ...change });

  it("stands apart with the time that is left, and is taken or let go by", async () => {
    server.desk.chats = [offered({ priority: 2 })];
    server.answers.set("POST /api/chats/Wren/pass", fine({}));
    const { user } = await line();
    const card = within(list("Offered to me")).getByRole("listitem");
    expect(within(card).getByRole("timer").textContent).toMatch(/^0:(1[6-9]|2[01]) left$/);
    expect(card.textContent).toContain("Travel help, priority 2");
    await user.click(within(card).getByRole("button", { name: "Pass" }));
    await waitFor(() => expect(server.sent.map((s) => s.what)).toEqual(["POST /api/chats/Wren/pass"]));
  });

  it("from a colleague says from whom, with their note", async () => {
    server.desk.chats = [
      chat("Wren", {
        name: "Wren",
        phase: "active",
        ownerId: "idris",
        ownerName: "Idris Vane",
        handingTo: "maren",
        handingUntil: later(),
      }),
    ];
    server.answers.set(
      "/api/chats/Wren?after=0",
      fine({
        chat: server.desk.chats[0],
        place: place("visitor-Wren"),
        events: [
          { number: 1, kind: "started", at: "2026-09-17T13:30:00Z", side: "visitor", by: "v", name: "Wren" },
          {
            number: 2,
            kind: "handed-on",
            at: "2026-09-17T13:31:00Z",
            side: "team",
            by: "idris",
            name: "Idris Vane",
            text: "needs a cabin",
          },
        ],
      }),
    );
    await line();
    const card = within(list("Offered to me")).getByRole("listitem");
    expect(card.textContent).toContain("Handed on by Idris Vane");
    await within(card).findByText("needs a cabin");
    expect(within(card).getByRole("button", { name: "Decline" })).toBeTruthy();
  });

  it("that went by too often sets one away, and tells how to come back", async () => {
    const drawn = await line();
    drawn.live.arrives({ type: "set-away", passes: 3 });
    const alert = await screen.findByRole("alert");
    expect(alert.textContent).toContain("You missed 3 offers in a row");
    server.answers.set("PUT /api/me/availability", fine({ ...server.desk.me, available: true }));
    await drawn.user.click(within(alert).getByRole("button", { name: "I’m back" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    expect(server.got("PUT /api/me/availability")).toEqual([{ available: true }]);
  });
});

describe("taking", () => {
  it("more than one should hold asks first, and takes it only on purpose", async () => {
    server.desk.chats = [waits("Wren", 1)];
    server.answers.set(
      "POST /api/chats/Wren/take?anyway=false",
      refused("Full", { code: "over-capacity", load: 4, capacity: 4 }),
    );
    server.answers.set("POST /api/chats/Wren/take?anyway=true", fine(waits("Wren", 1, { phase: "active" })));
    const { user } = await line();
    await user.click(screen.getByRole("button", { name: /Wren/ }));
    const dialog = await screen.findByRole("dialog");
    expect(dialog.textContent).toContain(
      "Your limit in Travel help is 4 chats at once, and you hold 4. Take Wren anyway?",
    );
    await user.click(within(dialog).getByRole("button", { name: "Leave it to a colleague" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(server.sent).toHaveLength(1);
    await user.click(screen.getByRole("button", { name: /Wren/ }));
    await user.click(await screen.findByRole("button", { name: "Take it anyway" }));
    await waitFor(() => expect(server.sent.at(-1)?.what).toBe("POST /api/chats/Wren/take?anyway=true"));
  });

  it("what a colleague took first says who has it, and the card is gone", async () => {
    server.desk.chats = [waits("Wren", 1)];
    server.answers.set(
      "POST /api/chats/Wren/take?anyway=false",
      refused("Idris Vane was faster", { code: "taken", detail: "Take another one." }),
    );
    const { user } = await line();
    await user.click(screen.getByRole("button", { name: /Wren/ }));
    await screen.findByText(/Idris Vane/);
  });
});

describe("my chats", () => {
  const mine = (id: string, change: Partial<ChatView> = {}) =>
    chat(id, { name: id, phase: "active", ownerId: "maren", ...change });

  it("show what came in a chat that is not on screen, and what is being typed there", async () => {
    server.desk.chats = [mine("Wren", { unseen: 120, lastWords: "Hello?" })];
    const drawn = await line();
    const card = screen.getByRole("button", { name: /Wren/ });
    expect(within(card).getByLabelText("120 new").textContent).toBe("99+");
    act(() => drawn.live.arrives({ type: "draft", chatId: "Wren", text: "Are you th" }));
    await waitFor(() => expect(card.textContent).toContain("typing: Are you th"));
  });

  it("are counted as they fill my places: not those that only want an outcome", async () => {
    const wrapUntil = "2999-01-01T00:00:00Z";
    server.desk.chats = [
      mine("Wren"),
      mine("Oskar", { handingTo: "idris", handingUntil: wrapUntil }),
      mine("Petra", { phase: "ended", ending: "answered", wrapUntil }),
      mine("Tam", { phase: "ended", ending: "answered", needsOutcome: true }),
    ];
    await line();
    const section = screen.getByRole("region", { name: "With me" });
    expect(section.querySelector(".count")?.textContent).toBe("3");
    expect(within(section).getAllByRole("listitem")).toHaveLength(4);
  });

  it("say what they still want after their end", async () => {
    server.desk.chats = [mine("Wren", { phase: "ended", ending: "answered", needsOutcome: true })];
    await line();
    expect(screen.getByRole("button", { name: /Wren/ }).textContent).toContain("ended, needs an outcome");
  });
});

describe("a colleague who asks for help", () => {
  it("is shown with the question, and joined by one press", async () => {
    server.desk.chats = [
      chat("Wren", {
        name: "Wren",
        phase: "active",
        ownerId: "idris",
        ownerName: "Idris Vane",
        callDepartmentId: "help",
        callSince: "2026-09-17T13:30:00Z",
      }),
    ];
    server.answers.set("POST /api/chats/Wren/join", refused("The call is over"));
    const { user } = await line();
    const card = within(list("Colleagues asking for help")).getByRole("listitem");
    expect(card.textContent).toContain("Idris Vane asks");
    await user.click(within(card).getByRole("button", { name: /^Join/ }));
    await screen.findByText(/The call is over/);
  });
});
