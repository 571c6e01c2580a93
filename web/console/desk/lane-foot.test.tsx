import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView } from "../../shared/types";
import { draw, leave, OfChat } from "./drawn";
import { chat, FakeServer, fine, idris, maren, operator, refused } from "./fake-desk";
import { GuestFoot, WithWhom } from "./company";
import { OwnerFoot } from "./lane-foot";
import WatcherFoot from "./watcher-foot";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const name = "Wren Castellane";
const held = (change: Partial<ChatView> = {}) =>
  chat("wren", { name, phase: "active", ownerId: "maren", ownerName: "Maren Holt", ...change });

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [held()];
  server.desk.operators = [
    { ...maren, load: 2 },
    { ...idris, load: 4 },
    operator("tove", "Tove Sandmark"),
    { ...operator("runa", "Runa Ek"), state: "offline" },
  ];
  server.desk.departments.push({
    id: "freight",
    name: "Freight",
    open: false,
    mine: false,
    handOut: "pick",
  });
});

const owner = (focused = true) => (
  <OfChat id="wren">{(c) => <OwnerFoot chat={c} name={name} focused={focused} />}</OfChat>
);
const button = (words: string | RegExp) => screen.getByRole("button", { name: words });

describe("ending a chat", () => {
  it("asks first, and says whose chat it is", async () => {
    server.answers.set("POST /api/chats/wren/end", fine(held({ phase: "ended" })));
    const { user } = await draw(server, owner());
    await user.click(button("End"));
    expect(screen.getByRole("group", { name: `End the chat with ${name}?` })).toBeTruthy();
    await user.click(button("Keep chat open"));
    expect(server.sent).toEqual([]);
    await user.click(button("End"));
    await user.click(button("End it"));
    await waitFor(() => expect(server.sent.map((s) => s.what)).toEqual(["POST /api/chats/wren/end"]));
  });

  it("is called by its key in the lane in use only", async () => {
    const { user } = await draw(server, owner(false));
    await user.keyboard("{Alt>}[KeyQ]{/Alt}");
    expect(screen.queryByRole("button", { name: "End it" })).toBeNull();
    leave();
    const used = await draw(server, owner());
    await used.user.keyboard("{Alt>}[KeyQ]{/Alt}");
    expect(document.activeElement).toBe(button("End it"));
  });

  it("says why it could not be, and leaves the chat as it is", async () => {
    server.answers.set("POST /api/chats/wren/end", refused("Somebody else owns this chat"));
    const { user } = await draw(server, owner());
    await user.click(button("End"));
    await user.click(button("End it"));
    await screen.findByText(/Somebody else owns this chat/);
    expect(button("End")).toBeTruthy();
  });
});

describe("handing on", () => {
  it("offers departments with their hours, and only colleagues who are there", async () => {
    const { user } = await draw(server, owner());
    await user.click(button("Hand on"));
    const whom = await screen.findByRole("radiogroup", { name: "To whom" });
    const choice = (words: RegExp) => within(whom).getByRole("radio", { name: words });
    expect(choice(/Freight.*closed/)).toHaveProperty("disabled", false);
    expect(choice(/Tove Sandmark.*0 of 4/)).toHaveProperty("disabled", false);
    expect(choice(/Idris Vane.*4 of 4 chats, full/)).toHaveProperty("disabled", false);
    expect(choice(/Runa Ek.*offline/)).toHaveProperty("disabled", true);
    expect(within(whom).queryByRole("radio", { name: /Maren/ })).toBeNull();
  });

  it("takes a note along, which is kept when it is refused or put off", async () => {
    server.answers.set("POST /api/chats/wren/hand-on", refused("Nobody of Freight is in"));
    const { user } = await draw(server, owner());
    await user.click(button("Hand on"));
    expect(await screen.findByRole("button", { name: "Hand on" })).toHaveProperty("disabled", true);
    await user.click(screen.getByRole("radio", { name: /Freight/ }));
    await user.type(screen.getByRole("textbox", { name: /Note/ }), "a lorry of 16 m");
    await user.click(button("Hand on"));
    expect((await screen.findByRole("alert")).textContent).toContain("Nobody of Freight is in");
    await user.click(button("Cancel"));
    leave();

    server.answers.set(
      "POST /api/chats/wren/hand-on",
      fine(held({ handingTo: "tove", handingToName: "Tove Sandmark", handingUntil: "2999-01-01T00:00:00Z" })),
    );
    const again = await draw(server, owner());
    await again.user.click(button("Hand on"));
    expect(await screen.findByRole("textbox", { name: /Note/ })).toHaveProperty("value", "a lorry of 16 m");
    await again.user.click(screen.getByRole("radio", { name: /Tove/ }));
    await again.user.click(button("Hand on"));
    await screen.findByText("Tove Sandmark");
    expect(server.got("POST /api/chats/wren/hand-on").at(-1)).toEqual({
      operatorId: "tove",
      note: "a lorry of 16 m",
    });
    expect(localStorage.getItem("stoop.desk.note.wren")).toBeNull();
  });

  it("can be taken back while it lasts, and nothing else is offered meanwhile", async () => {
    server.desk.chats = [
      held({ handingTo: "tove", handingToName: "Tove Sandmark", handingUntil: "2999-01-01T00:00:00Z" }),
    ];
    server.answers.set("POST /api/chats/wren/take-back", fine(held()));
    const { user } = await draw(server, owner());
    expect(screen.queryByRole("button", { name: "End" })).toBeNull();
    await user.keyboard("{Alt>}[KeyQ]{/Alt}");
    expect(screen.queryByRole("button", { name: "End it" })).toBeNull();
    await user.click(button("Take back"));
    await screen.findByRole("button", { name: "End" });
  });
});

describe("the menu of a chat", () => {
  it("puts a chat back with the words for the team, and takes its lane away", async () => {
    server.answers.set("POST /api/chats/wren/put-back", fine(held({ phase: "waiting" })));
    const { user, store } = await draw(server, owner());
    store.screen.focus("wren");
    await user.click(button("More"));
    await user.click(await screen.findByRole("menuitem", { name: /Put back/ }));
    expect((await screen.findByText(/returns to the Travel help queue/)).textContent).toContain(name);
    await user.type(screen.getByRole("textbox", { name: /Note/ }), "asks for a cabin");
    await user.click(button("Put back"));
    await waitFor(() =>
      expect(server.got("POST /api/chats/wren/put-back")).toEqual([{ note: "asks for a cabin" }]),
    );
    await waitFor(() => expect(store.screen.lanes.showable()).toEqual([]));
  });

  it("offers no putting back of a message: nobody waits there", async () => {
    server.desk.chats = [held({ message: true })];
    const { user } = await draw(server, owner());
    await user.click(button("More"));
    await screen.findByRole("menuitem", { name: /Add colleague/ });
    expect(screen.queryByRole("menuitem", { name: /Put back/ })).toBeNull();
    await user.keyboard("{Escape}{Alt>}[KeyP]{/Alt}");
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("adds a colleague who is away, but nobody who is offline", async () => {
    server.desk.operators = [
      { ...idris, state: "away" },
      { ...operator("runa", "Runa Ek"), state: "offline" },
    ];
    server.answers.set("PUT /api/chats/wren/colleagues/idris", fine(held({ guests: ["idris"] })));
    const { user } = await draw(
      server,
      <>
        <OfChat id="wren">{(c) => <WithWhom chat={c} />}</OfChat>
        {owner()}
      </>,
    );
    await user.keyboard("{Alt>}[KeyC]{/Alt}");
    expect(await screen.findByRole("radio", { name: /Runa/ })).toHaveProperty("disabled", true);
    await user.click(screen.getByRole("radio", { name: /Idris/ }));
    await user.click(button("Add"));
    expect((await screen.findByText(/You own this chat/)).parentElement?.textContent).toContain("Idris Vane");
  });

  it("marks unread and says the opposite then", async () => {
    server.answers.set("PUT /api/chats/wren/unread", (body) =>
      fine(held({ unread: (body as { unread: boolean }).unread })),
    );
    const { user } = await draw(server, owner());
    await user.keyboard("{Alt>}[KeyU]{/Alt}");
    await waitFor(() => expect(server.got("PUT /api/chats/wren/unread")).toEqual([{ unread: true }]));
    await user.click(button("More"));
    await user.click(await screen.findByRole("menuitem", { name: /Mark read/ }));
    await waitFor(() => expect(server.got("PUT /api/chats/wren/unread").at(-1)).toEqual({ unread: false }));
  });

  it("bans with a reason and an end; what is wrong stands at the reason", async () => {
    server.answers.set(
      "POST /api/bans",
      refused("This cannot be", { fields: [{ field: "reason", words: "Say why, for colleagues." }] }),
    );
    const { user } = await draw(server, owner());
    await user.keyboard("{Alt>}[KeyZ]{/Alt}");
    await user.click(await screen.findByRole("button", { name: "End the chat and ban" }));
    await screen.findByText("Say why, for colleagues.");
    server.answers.set("POST /api/bans", fine({}));
    await user.type(screen.getByRole("textbox", { name: /Reason/ }), " Insults ");
    await user.click(screen.getByRole("radio", { name: "for a week" }));
    await user.click(button("End the chat and ban"));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(server.got("POST /api/bans").at(-1)).toEqual({ chatId: "wren", reason: "Insults", hours: 168 });
  });
});

describe("asking the team", () => {
  it("asks one's own department first, with words that are kept until they are sent", async () => {
    server.answers.set("POST /api/chats/wren/call", refused("The chat has ended"));
    const { user } = await draw(server, owner());
    await user.click(button("Ask team"));
    expect(await screen.findByRole("radio", { name: /Travel help/ })).toHaveProperty("checked", true);
    await user.type(screen.getByRole("textbox", { name: "What you need to know" }), "Which gate?");
    await user.click(button("Ask"));
    await screen.findByRole("alert");
    server.answers.set("POST /api/chats/wren/call", fine(held({ callDepartmentId: "help" })));
    await user.click(button("Ask"));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(server.got("POST /api/chats/wren/call").at(-1)).toEqual({
      departmentId: "help",
      text: "Which gate?",
    });
    // One call at a time.
    await waitFor(() => expect(button("Ask team")).toHaveProperty("disabled", true));
    expect(localStorage.getItem("stoop.desk.ask.wren")).toBeNull();
  });

  it("shows the call to its owner, who can end it", async () => {
    server.desk.chats = [held({ callDepartmentId: "help" })];
    server.answers.set("DELETE /api/chats/wren/call", fine(held()));
    const { user } = await draw(server, <OfChat id="wren">{(c) => <WithWhom chat={c} />}</OfChat>);
    expect(screen.getByText(/Asking Travel help/)).toBeTruthy();
    await user.click(button("stop asking"));
    await waitFor(() => expect(screen.queryByText(/Asking Travel help/)).toBeNull());
  });
});

describe("a colleague in the chat", () => {
  it("may leave; only leads may take over", async () => {
    server.desk.chats = [held({ ownerId: "idris", ownerName: "Idris Vane", guests: ["maren"] })];
    server.answers.set("DELETE /api/chats/wren/colleagues/maren", fine({}));
    const guest = (
      <OfChat id="wren">
        {(c) => (
          <>
            <WithWhom chat={c} />
            <GuestFoot chat={c} />
          </>
        )}
      </OfChat>
    );
    const { user } = await draw(server, guest);
    expect(screen.getByText(/Idris Vane owns this chat/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "take out" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Take over" })).toBeNull();
    await user.click(button("Leave the chat"));
    await waitFor(() => expect(screen.queryByText(/owns this chat/)).toBeNull());
    leave();

    const lead = { ...maren, role: "lead" as const };
    server.desk.me = lead;
    await draw(server, guest, { me: lead });
    expect(button("Take over")).toBeTruthy();
  });

  it("who watches whispers to the owner; a whisper that failed is in the field again", async () => {
    server.desk.chats = [held({ ownerId: "idris", ownerName: "Idris Vane" })];
    server.answers.set("POST /api/chats/wren/whispers", refused("The chat has ended"));
    const { user } = await draw(server, <OfChat id="wren">{(c) => <WatcherFoot chat={c} />}</OfChat>);
    const field = screen.getByRole("textbox", { name: "Whisper to Idris Vane" });
    await user.type(field, "Offer the lift.{Enter}");
    await screen.findByText(/The chat has ended/);
    expect(field).toHaveProperty("value", "Offer the lift.");
    server.answers.set("POST /api/chats/wren/whispers", fine(held({ ownerId: "idris" })));
    await user.click(button(/^Whisper/));
    await waitFor(() => expect(field).toHaveProperty("value", ""));
    expect(server.got("POST /api/chats/wren/whispers").at(-1)).toMatchObject({ text: "Offer the lift." });
  });
});
