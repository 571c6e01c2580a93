import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { AboutView, ContactView } from "../../shared/types";
import { About } from "./about";
import { draw, leave, OfChat } from "./drawn";
import { chat, FakeServer, fine, refused } from "./fake-desk";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const contact: ContactView = {
  id: "c1",
  claimed: false,
  version: 3,
  name: "Wren Castellane",
  email: "wren@example.com",
  phone: "",
  company: "",
  fields: { member: "K-77" },
};
const about = (change: Partial<AboutView> = {}): AboutView => ({
  contact,
  earlier: [],
  fields: [{ kind: "text", name: "member", label: "Member number" }],
  notes: [],
  tags: [],
  visits: 1,
  ...change,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [chat("wren", { name: "Wren Castellane", phase: "active", ownerId: "maren" })];
  server.answers.set("/api/chats/wren/about", fine(about()));
});

const panel = (onClose = () => undefined) => (
  <OfChat id="wren">{(c) => <About chat={c} number={2} onClose={onClose} />}</OfChat>
);
const field = (label: string) => screen.getByRole("textbox", { name: new RegExp(`^${label}`) });
const save = () => screen.getByRole("button", { name: "Save contact" });

describe("what is known of the visitor", () => {
  it("names the lane it belongs to, the contact with the team's own fields, and what is not known as such", async () => {
    await draw(server, panel());
    const aside = screen.getByRole("complementary", { name: "About Wren Castellane" });
    expect(within(aside).getByText("2")).toBeTruthy();
    expect((await screen.findByText("Member number")).parentElement?.textContent).toContain("K-77");
    expect(screen.queryByText("Phone")).toBeNull();
  });

  it("names no lane where the chat has none", async () => {
    await draw(
      server,
      <OfChat id="wren">{(c) => <About chat={c} number={0} onClose={() => undefined} />}</OfChat>,
    );
    const head = screen.getByRole("heading", { name: "About" }).parentElement;
    expect(head?.textContent).not.toContain("0");
  });

  it("can be asked for again when it did not come", async () => {
    server.answers.set("/api/chats/wren/about", { status: 502, body: {} });
    const { user } = await draw(server, panel());
    await screen.findByText(/No connection to Stoop/);
    // What the team puts down does not depend on it.
    expect(screen.getByRole("textbox", { name: "Summary" })).toBeTruthy();
    server.answers.set("/api/chats/wren/about", fine(about()));
    await user.click(screen.getByRole("button", { name: "Try again" }));
    await screen.findByText("wren@example.com");
  });

  it("lists earlier chats by their words and opens one beside", async () => {
    server.answers.set(
      "/api/chats/wren/about",
      fine(
        about({
          earlier: [
            {
              id: "old",
              tags: [],
              words: "Where is my jacket?",
              startedAt: "2026-09-01T10:00:00Z",
              ending: "missed",
              readable: true,
            },
          ],
        }),
      ),
    );
    const { user, store } = await draw(server, panel());
    const link = await screen.findByRole("button", { name: "Where is my jacket?" });
    expect(link.parentElement?.textContent).toContain("missed");
    await user.click(link);
    expect(store.stores.windows.getState().beside).toEqual({ id: "old", of: "wren" });
  });
});

describe("editing the contact", () => {
  const edit = async () => {
    const drawn = await draw(server, panel());
    await drawn.user.click(await screen.findByRole("button", { name: "Edit the contact" }));
    return drawn;
  };

  it("stores all fields under the version that was read", async () => {
    server.answers.set("PUT /api/chats/wren/contact", fine(contact));
    const { user } = await edit();
    expect(document.activeElement).toBe(field("Name"));
    await user.type(field("Phone"), "+45 5550 0199");
    await user.clear(field("Member number"));
    await user.type(field("Member number"), "K-78{Enter}");
    await waitFor(() => expect(screen.queryByRole("button", { name: "Save contact" })).toBeNull());
    expect(server.got("PUT /api/chats/wren/contact")).toEqual([
      { ...contact, phone: "+45 5550 0199", fields: { member: "K-78" } },
    ]);
  });

  it("shows what a colleague stored beside what was typed, and stores over the newer one on purpose only", async () => {
    const theirs = {
      ...contact,
      claimed: false,
      version: 4,
      email: "w.castellane@example.com",
      company: "Castellane & Sons",
    };
    server.answers.set("PUT /api/chats/wren/contact", {
      status: 409,
      body: { code: "contact-changed", title: "Changed", detail: "", retry: false, contact: theirs },
    });
    const { user } = await edit();
    await user.clear(field("Email"));
    await user.type(field("Email"), "wren@example.org");
    await user.click(save());
    expect((await screen.findByRole("alert")).textContent).toContain(
      "A colleague changed this in the meantime",
    );
    expect(field("Email")).toHaveProperty("value", "wren@example.org");
    expect(screen.getByText("w.castellane@example.com")).toBeTruthy();
    // Of what differs, each is taken or left alone.
    const company = field("Company").closest("label") as HTMLElement;
    await user.click(within(company).getByRole("button", { name: "Use theirs" }));
    expect(field("Company")).toHaveProperty("value", "Castellane & Sons");
    server.answers.set("PUT /api/chats/wren/contact", fine(contact));
    await user.click(save());
    await waitFor(() =>
      expect(server.got("PUT /api/chats/wren/contact").at(-1)).toMatchObject({
        claimed: false,
        version: 4,
        email: "wren@example.org",
        company: "Castellane & Sons",
      }),
    );
  });

  it("keeps a colleague's change in sight over the turn to another lane: it is not overwritten unseen", async () => {
    const theirs = { ...contact, version: 4, email: "w.castellane@example.com" };
    server.answers.set("PUT /api/chats/wren/contact", {
      status: 409,
      body: { code: "contact-changed", title: "Changed", detail: "", retry: false, contact: theirs },
    });
    const { user } = await edit();
    await user.type(field("Phone"), " 1");
    await user.click(save());
    await screen.findByText("w.castellane@example.com");
    leave();
    await draw(server, panel());
    expect((await screen.findByRole("alert")).textContent).toContain("A colleague changed this");
    expect(screen.getByText("w.castellane@example.com")).toBeTruthy();
  });

  it("says at the field what is wrong there, and as a whole what is wrong otherwise", async () => {
    server.answers.set(
      "PUT /api/chats/wren/contact",
      refused("Look at the fields", { fields: [{ field: "email", words: "This is no email address." }] }),
    );
    const { user } = await edit();
    await user.type(field("Email"), "@");
    await user.click(save());
    expect((await screen.findByText("This is no email address.")).closest("label")?.textContent).toContain(
      "Email",
    );
    server.answers.set("PUT /api/chats/wren/contact", refused("The chat is not yours"));
    await user.click(save());
    await screen.findByText(/The chat is not yours/);
    expect(field("Email")).toHaveProperty("value", "wren@example.com@");
  });

  it("outlasts the turn to another lane, and does not take the keyboard when one comes back", async () => {
    const { user } = await edit();
    await user.type(field("Phone"), "+45 55");
    leave();
    await draw(server, panel());
    await screen.findByRole("button", { name: "Save contact" });
    expect(field("Phone")).toHaveProperty("value", "+45 55");
    expect(document.activeElement).toBe(document.body);
  });

  it("is left by Esc, and then forgotten", async () => {
    const { user } = await edit();
    await user.type(field("Phone"), "+45 55{Escape}");
    await screen.findByRole("button", { name: "Edit the contact" });
    leave();
    await draw(server, panel());
    expect(await screen.findByRole("button", { name: "Edit the contact" })).toBeTruthy();
  });
});

describe("notes about the person", () => {
  it("are added by Enter and stay in the field when that fails", async () => {
    server.answers.set("POST /api/chats/wren/contact/notes", refused("Too long"));
    const { user } = await draw(server, panel());
    const note = await screen.findByRole("textbox", { name: "Add a note about the person" });
    await user.type(note, "Travels with a dog{Enter}");
    await screen.findByText(/Too long/);
    expect(note).toHaveProperty("value", "Travels with a dog");
    server.answers.set("POST /api/chats/wren/contact/notes", fine({}));
    server.answers.set(
      "/api/chats/wren/about",
      fine(
        about({
          notes: [
            {
              id: "n1",
              text: "Travels with a dog",
              by: "Maren Holt",
              at: "2026-09-17T13:33:00Z",
              mine: true,
            },
            { id: "n2", text: "Pays by card", by: "Idris Vane", at: "2026-09-16T13:33:00Z", mine: false },
          ],
        }),
      ),
    );
    await user.type(note, "{Enter}");
    await screen.findByText("Pays by card");
    expect(server.got("POST /api/chats/wren/contact/notes").at(-1)).toEqual({ text: "Travels with a dog" });
    expect(note).toHaveProperty("value", "");
    // Only one's own can be deleted.
    expect(screen.getAllByRole("button", { name: "delete" })).toHaveLength(1);
  });

  it("half written are there again after another lane was looked at", async () => {
    const { user } = await draw(server, panel());
    await user.type(await screen.findByRole("textbox", { name: "Add a note about the person" }), "Travels");
    leave();
    await draw(server, panel());
    expect(await screen.findByRole("textbox", { name: "Add a note about the person" })).toHaveProperty(
      "value",
      "Travels",
    );
  });
});
