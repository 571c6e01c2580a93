import { act, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ContactPage, ContactView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { ContactPane } from "./contact";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const contact: ContactView = {
  id: "c1",
  claimed: false,
  version: 3,
  name: "Nell Carraway",
  email: "nell@example.org",
  phone: "",
  company: "Carraway & Moss",
  fields: {},
};
const page = (change: Partial<ContactPage> = {}): ContactPage => ({
  contact,
  fields: [],
  notes: [],
  chats: [],
  visits: [],
  files: [],
  browsers: [],
  perhaps: [],
  here: false,
  canWrite: true,
  ...change,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/contacts/c1", fine(page()));
});

const pane = (
  <Routes>
    <Route path="/contacts/c1" element={<ContactPane id="c1" />} />
    <Route path="/desk" element={<p>The Desk</p>} />
  </Routes>
);
const at = { path: "/contacts/c1" };
const button = (name: string) => screen.getByRole("button", { name });
const letter = () => screen.findByRole("textbox", { name: "Letter to the contact" });

interface Sent {
  clientId: string;
  text: string;
}
const sent = () => server.got("POST /api/contacts/c1/letters") as Sent[];

describe("a letter", () => {
  it("that did not go stays, and goes again as the same one; with other words it is another", async () => {
    server.answers.set("POST /api/contacts/c1/letters", { status: 502, body: {} });
    const { user } = await draw(server, pane, at);
    await user.type(await letter(), "The 14:10 is back");
    await user.click(button("Send by email"));
    await screen.findByText(/No connection to Stoop/);
    expect(await letter()).toHaveProperty("value", "The 14:10 is back");
    await user.click(button("Send by email"));
    await waitFor(() => expect(sent()).toHaveLength(2));
    await waitFor(() => expect(button("Send by email")).toHaveProperty("disabled", false));
    await user.type(await letter(), " on time");
    server.answers.set("POST /api/contacts/c1/letters", fine({ chatId: "l1" }));
    await user.click(button("Send by email"));
    await screen.findByText("The Desk");
    const [first, second, third] = sent();
    expect(second?.clientId).toBe(first?.clientId);
    expect(third?.clientId).not.toBe(first?.clientId);
    expect(third?.text).toBe("The 14:10 is back on time");
    expect(localStorage.getItem("stoop.letter.c1")).toBeNull();
  });

  it("needs an address", async () => {
    server.answers.set("/api/contacts/c1", fine(page({ canWrite: false })));
    await draw(server, pane, at);
    await screen.findByText("No email is known of this contact.");
    expect(screen.queryByRole("button", { name: "Send by email" })).toBeNull();
  });
});

describe("a note", () => {
  it("is taken once however often it is pressed, and comes back before what is typed by now when it could not be", async () => {
    server.answers.set("POST /api/contacts/c1/notes", refused("Not now", {}));
    const { user } = await draw(server, pane, at);
    const field = await screen.findByRole("textbox", { name: "Add a note about the person" });
    await user.type(field, "Has two dogs{Enter}{Enter}and a cat");
    await waitFor(() => expect(field).toHaveProperty("value", "Has two dogs and a cat"));
    expect(server.got("POST /api/contacts/c1/notes")).toEqual([{ text: "Has two dogs" }]);
    server.answers.set("POST /api/contacts/c1/notes", fine({}));
    await user.type(field, "{Enter}");
    await waitFor(() => expect(field).toHaveProperty("value", ""));
  });
});

describe("browsers", () => {
  const browser = (id: string, name: string) => ({ id, name, email: "", createdAt: "2026-11-20T10:00:00Z" });

  it("are taken apart by choice, never all of them", async () => {
    server.answers.set(
      "/api/contacts/c1",
      fine(page({ browsers: [browser("b1", "Nell"), browser("b2", "Odd")] })),
    );
    server.answers.set("POST /api/contacts/c1/split", fine({ ...contact, id: "c2", name: "Odd" }));
    const { user } = await draw(server, pane, at);
    await user.click(await screen.findByRole("checkbox", { name: /^Nell/ }));
    await user.click(screen.getByRole("checkbox", { name: /^Odd/ }));
    expect(button("Make another contact of these 2")).toHaveProperty("disabled", true);
    await user.click(screen.getByRole("checkbox", { name: /^Nell/ }));
    await user.click(button("Make another contact of this one"));
    await waitFor(() => expect(server.got("POST /api/contacts/c1/split")).toEqual([{ browsers: ["b2"] }]));
  });

  it("of who gave the same email are perhaps the same, which somebody decides", async () => {
    server.answers.set("/api/contacts/c1", fine(page({ perhaps: [browser("b3", "N. C.")] })));
    server.answers.set("PUT /api/contacts/c1/browsers/b3", fine({}));
    const { user } = await draw(server, pane, at);
    await screen.findByText("They gave the same email. Nobody has verified that.");
    server.answers.set("/api/contacts/c1", fine(page({ browsers: [browser("b3", "N. C.")] })));
    await user.click(button("It is the same"));
    await screen.findByRole("heading", { name: "Browsers (1)" });
    expect(screen.queryByText("Perhaps the same person")).toBeNull();
  });
});

describe("merging", () => {
  it("shows what will be, keeps what only one has, and asks anew for each other contact", async () => {
    const other = {
      ...contact,
      id: "c9",
      version: 7,
      name: "N. Carraway",
      email: "",
      phone: "01632 960 100",
      company: "Moss",
    };
    const third = { ...other, id: "c8", version: 1, name: "Nell C.", company: "Third" };
    const row = { id: "c9", name: "N. Carraway", email: "", phone: "", company: "Moss", vouched: false };
    server.answers.set(
      "/api/contacts?words=carr",
      fine({ contacts: [row, { ...row, id: "c8", name: "Nell C." }, { ...row, id: "c1" }], total: 3 }),
    );
    server.answers.set("/api/contacts/c9", fine(page({ contact: other })));
    server.answers.set("/api/contacts/c8", fine(page({ contact: third })));
    server.answers.set("POST /api/contacts/c1/merge", refused("A colleague changed this", {}));
    const { user } = await draw(server, pane, at);
    await user.type(await screen.findByRole("textbox", { name: "Find the other contact" }), "carr");
    await waitFor(() => expect(screen.getAllByRole("button", { name: "Compare" })).toHaveLength(2));
    await user.click(screen.getAllByRole("button", { name: "Compare" })[0] as HTMLElement);
    await user.click(await screen.findByRole("radio", { name: "Moss" }));
    await user.click(button("Merge"));
    await screen.findByText(/A colleague changed this/);
    const merged = { ...contact, phone: "01632 960 100", company: "Moss" };
    expect(server.got("POST /api/contacts/c1/merge")).toEqual([{ otherId: "c9", otherVersion: 7, merged }]);
    // With another one nothing is chosen yet.
    await act(async () => user.click(button("Cancel")));
    await user.click(screen.getAllByRole("button", { name: "Compare" })[1] as HTMLElement);
    expect(await screen.findByRole("radio", { name: "Carraway & Moss" })).toHaveProperty("checked", true);
  });
});
