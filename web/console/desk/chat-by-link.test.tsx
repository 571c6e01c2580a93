import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes, useLocation } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView } from "../../shared/types";
import { DeskPage } from "./desk";
import { draw } from "./drawn";
import { chat, FakeServer, fine, idris, maren, place, refused } from "./fake-desk";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const lead = { ...maren, role: "lead" as const };

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal("ResizeObserver", class { observe() {} disconnect() {} }); // prettier-ignore
  server = new FakeServer();
  for (const id of ["Wren", "Oskar"])
    server.answers.set(`GET /api/chats/${id}/about`, refused("There is no such chat"));
});

function Address() {
  const { pathname, search } = useLocation();
  return <output aria-label="Address">{pathname + search}</output>;
}

/** Follows a link to a chat. */
async function follow(id: string, me = maren) {
  const drawn = await draw(
    server,
    <>
      <Address />
      <Routes>
        <Route path="/desk" element={<DeskPage />} />
        <Route path="*" element={null} />
      </Routes>
    </>,
    { me, path: `/desk?chat=${id}` },
  );
  return drawn;
}
const address = () => screen.getByLabelText("Address").textContent;
const answer = (c: ChatView) => {
  const script = fine({ chat: c, place: place(`visitor-${c.id}`), events: [] });
  for (const query of ["", "?after=0"]) server.answers.set(`GET /api/chats/${c.id}${query}`, script);
};

describe("a link to a chat", () => {
  it("that waits leads to its card: it is marked, has the keyboard, and nothing is taken", async () => {
    server.desk.chats = [chat("Oskar"), chat("Wren")];
    await follow("Wren");
    const list = screen.getByRole("list", { name: "Waiting visitors" });
    await waitFor(() =>
      expect(within(list).getByRole("listitem", { current: true }).textContent).toContain("Wren"),
    );
    expect(document.activeElement?.textContent).toContain("Wren");
    expect(within(list).getAllByRole("listitem", { current: true })).toHaveLength(1);
    await waitFor(() => expect(address()).toBe("/desk"));
    expect(screen.queryByRole("region", { name: /Wren/ })).toBeNull();
    expect(server.sent).toEqual([]);
  });

  it("however far back it waits", async () => {
    const since = (i: number) => new Date(Date.parse("2026-09-17T12:00:00Z") + i * 1000).toISOString();
    server.desk.chats = Array.from({ length: 60 }, (_, i) =>
      chat(`v${i}`, { name: `v${i}`, order: since(i), arrived: since(i) }),
    );
    await follow("v57");
    await waitFor(() => expect(document.activeElement?.textContent).toContain("v57"));
  });

  it("that is told of late marks the card and leaves the keyboard to whoever types by then", async () => {
    server.desk.chats = [chat("Oskar")];
    answer(chat("Wren"));
    let tell: () => void = () => undefined;
    server.hold.set("GET /api/chats/Wren", new Promise((done) => (tell = done)));
    const { live } = await follow("Wren");
    await waitFor(() => expect(server.asked).toContain("/api/chats/Wren"));
    const field = document.body.appendChild(document.createElement("textarea"));
    field.focus();
    tell();
    live.arrives({ type: "chat", chat: chat("Wren"), events: [] });
    await waitFor(() =>
      expect(screen.getByRole("listitem", { current: true }).textContent).toContain("Wren"),
    );
    expect(document.activeElement).toBe(field);
    field.remove();
  });

  it("that is offered leads to where it can be taken", async () => {
    const offeredUntil = new Date(Date.now() + 20_000).toISOString();
    server.desk.chats = [chat("Oskar"), chat("Wren", { offeredTo: "maren", offeredUntil })];
    await follow("Wren");
    await waitFor(() => expect(document.activeElement?.textContent).toMatch(/^Take/));
    expect(document.activeElement?.closest("li")?.textContent).toContain("Wren");
  });

  it("of mine leads to its lane", async () => {
    const mine = { phase: "active" as const, ownerId: "maren", ownerName: "Maren Holt" };
    server.desk.chats = [chat("Oskar", mine), chat("Wren", mine)];
    for (const c of server.desk.chats) answer(c);
    const { store } = await follow("Wren");
    await waitFor(() => expect(store.stores.windows.getState().focused).toBe("Wren"));
    await waitFor(() => expect(address()).toBe("/desk"));
  });

  it("of mine that this page does not know of yet leads to its lane all the same", async () => {
    const mine = chat("Wren", { phase: "active", ownerId: "maren", ownerName: "Maren Holt" });
    answer(mine);
    const { store } = await follow("Wren");
    await waitFor(() => expect(store.stores.chats.getState().chats.has("Wren")).toBe(true));
    expect(store.stores.windows.getState().focused).toBe("Wren");
  });

  it("with a colleague says why it is not here, and takes nothing", async () => {
    const refusal = { status: 403, code: "not-yours" };
    server.answers.set("GET /api/chats/Wren", refused("This chat is not yours", refusal));
    const { store } = await follow("Wren");
    expect(await screen.findByText(/a colleague or another department has it/)).toBeTruthy();
    await waitFor(() => expect(address()).toBe("/desk"));
    expect(server.sent).toEqual([]);
    expect(store.stores.windows.getState().focused).toBe("");
  });

  it("that was left for a department that is closed now says so", async () => {
    server.desk.departments = [{ id: "help", name: "Travel help", open: false, mine: true, handOut: "pick" }];
    server.desk.chats = [chat("Wren", { message: true })];
    await follow("Wren");
    expect(await screen.findByText("Wren waits for Travel help, which is closed now.")).toBeTruthy();
  });

  it("with a colleague is read along by a lead", async () => {
    const held = chat("Wren", { phase: "active", ownerId: "idris", ownerName: idris.name });
    answer(held);
    server.desk.me = lead;
    server.answers.set("PUT /api/chats/Wren/watch", fine(held));
    const { store } = await follow("Wren", lead);
    await waitFor(() => expect(store.stores.windows.getState().focused).toBe("Wren"));
    expect(server.sent).toEqual([{ what: "PUT /api/chats/Wren/watch", body: { on: true } }]);
  });

  it("that is over leads to its transcript", async () => {
    answer(chat("Wren", { phase: "ended" }));
    await follow("Wren");
    await waitFor(() => expect(address()).toBe("/transcripts/Wren"));
  });

  it("that is not for me, or not there, says so and leads nowhere", async () => {
    server.answers.set("GET /api/chats/Wren", refused("There is no such chat"));
    await follow("Wren");
    await waitFor(() => expect(address()).toBe("/desk"));
    expect((await screen.findByRole("alert")).textContent).toContain("There is no such chat");
  });

  it("is kept while Stoop cannot be reached, and followed when it is there again", async () => {
    server.answers.set("GET /api/chats/Wren", refused("Stoop is busy", { status: 503, retry: true }));
    const { live } = await follow("Wren");
    await screen.findByRole("alert");
    expect(address()).toBe("/desk?chat=Wren");
    answer(chat("Wren", { phase: "ended" }));
    live.up();
    await waitFor(() => expect(address()).toBe("/transcripts/Wren"));
  });
});
