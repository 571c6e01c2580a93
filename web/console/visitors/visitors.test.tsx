import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { GuestView } from "../../shared/types";
import { draw, leave } from "../desk/drawn";
import { FakeServer, fine, maren, refused } from "../desk/fake-desk";
import { useAddress } from "../kit/address";
import { lookOf } from "./filtering";
import { Filters } from "./filters";
import { Invite } from "./invite";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const guest = { id: "g1", state: "browsing" } as unknown as GuestView;
const words = () => screen.getByRole("textbox", { name: "Words of the invitation" });
const button = (name: string) => screen.getByRole("button", { name });
const invited = () => server.got("POST /api/visitors/g1/invitation") as { text: string; opens: boolean }[];

describe("an invitation", () => {
  it("that was refused stays in its field, with why; what was sent leaves it", async () => {
    server.answers.set("POST /api/visitors/g1/invitation", refused("They have written meanwhile"));
    const { user } = await draw(server, <Invite guest={guest} />);
    expect(button("Send invitation")).toHaveProperty("disabled", true);
    await user.type(words(), "  May I help with the lorry deck?");
    await user.click(button("Send invitation"));
    await screen.findByText(/They have written meanwhile/);
    expect(words()).toHaveProperty("value", "  May I help with the lorry deck?");
    server.answers.set("POST /api/visitors/g1/invitation", fine({}));
    await user.click(screen.getByRole("checkbox", { name: "Open the chat on their page" }));
    await user.click(button("Send invitation"));
    await screen.findByText("Invitation sent");
    await waitFor(() => expect(words()).toHaveProperty("value", ""));
    expect(screen.queryByText(/They have written meanwhile/)).toBeNull();
    expect(invited().at(-1)).toEqual({ text: "May I help with the lorry deck?", opens: true });
  });

  it("leaves alone what was typed while it was on its way", async () => {
    let answer: () => void = () => undefined;
    server.hold.set("POST /api/visitors/g1/invitation", new Promise((done) => (answer = done)));
    server.answers.set("POST /api/visitors/g1/invitation", fine({}));
    const { user } = await draw(server, <Invite guest={guest} />);
    await user.type(words(), "Hello");
    await user.click(button("Send invitation"));
    await user.type(words(), ", and good morning");
    expect(button("Send invitation")).toHaveProperty("disabled", true);
    answer();
    await screen.findByText("Invitation sent");
    expect(words()).toHaveProperty("value", "Hello, and good morning");
    await waitFor(() => expect(button("Send invitation")).toHaveProperty("disabled", false));
    expect(invited()).toHaveLength(1);
  });

  it("cannot be longer than fits on a card", async () => {
    const { user } = await draw(server, <Invite guest={guest} />);
    await user.click(words());
    await user.paste("é".repeat(301));
    await screen.findByText("Up to 300 characters");
    expect(button("Send invitation")).toHaveProperty("disabled", true);
    await user.keyboard("{Backspace}");
    expect(button("Send invitation")).toHaveProperty("disabled", false);
  });

  it("is taken back by who sent it, and a colleague's by a lead only", async () => {
    const theirs = { ...guest, state: "invited", ownerId: "idris", ownerName: "Idris Vane" } as GuestView;
    await draw(server, <Invite guest={theirs} />);
    await screen.findByText("The invitation of Idris Vane is on their screen.");
    expect(screen.queryByRole("button", { name: "Take it back" })).toBeNull();
    leave();
    server.desk.me = { ...maren, role: "lead" };
    const { user } = await draw(server, <Invite guest={theirs} />, { me: server.desk.me });
    server.answers.set("DELETE /api/visitors/g1/invitation", fine({}));
    await user.click(button("Take it back"));
    await waitFor(() =>
      expect(server.sent.map((s) => s.what)).toContain("DELETE /api/visitors/g1/invitation"),
    );
  });

  it("is not offered to somebody who talks or waits", async () => {
    await draw(server, <Invite guest={{ ...guest, state: "chat" } as GuestView} />);
    expect(screen.queryByRole("textbox")).toBeNull();
  });

  it("begins with a canned response that needs nothing filled in and is short enough", async () => {
    server.answers.set(
      "/api/canned",
      fine([
        { id: "1", shortcut: "deck", text: "The lorry deck is 4.6 m high." },
        { id: "2", shortcut: "hello", text: "Hello {visitor.name}" },
        { id: "3", shortcut: "long", text: "x".repeat(301) },
      ]),
    );
    const { user } = await draw(server, <Invite guest={guest} />);
    await user.click(button("Canned"));
    await user.click(await screen.findByRole("menuitem", { name: /lorry deck/ }));
    expect(words()).toHaveProperty("value", "The lorry deck is 4.6 m high.");
    await user.click(button("Canned"));
    await waitFor(() => expect(screen.getAllByRole("menuitem")).toHaveLength(1));
  });
});

function Narrowed() {
  const [address, change] = useAddress();
  return (
    <>
      <Filters look="visitors" address={address} change={change} />
      <output>{address.toString()}</output>
    </>
  );
}

const address = () => screen.getByRole("status").textContent;

describe("what narrows the visitors down", () => {
  it("stands in the address, several of a kind beside each other", async () => {
    const { user } = await draw(server, <Narrowed />, { path: "/visitors?group=country" });
    await user.click(button("State: all"));
    await user.click(screen.getByRole("menuitemcheckbox", { name: "waiting" }));
    await user.click(screen.getByRole("menuitemcheckbox", { name: "in a chat" }));
    await user.keyboard("{Escape}");
    await waitFor(() => expect(address()).toBe("group=country&state=waiting%7Cchat"));
    await user.click(button("State: waiting, in a chat"));
    await user.click(screen.getByRole("menuitem", { name: "Show all" }));
    await waitFor(() => expect(address()).toBe("group=country"));
  });

  it("can be kept under a name, and the words of a view that is chosen stay", async () => {
    server.desk.preferences = { siteViews: [{ name: "Lorries", address: "words=lorry&basket=with" }] };
    server.answers.set("PATCH /api/me/preferences", fine({}));
    const { user, store } = await draw(server, <Narrowed />, { path: "/visitors?country=DK" });
    const search = () => screen.getByRole("searchbox", { name: "Search the visitors" });
    await user.click(button("Views"));
    await user.click(screen.getByRole("menuitem", { name: /Lorries/ }));
    await waitFor(() => expect(address()).toBe("words=lorry&basket=with"));
    expect(search()).toHaveProperty("value", "lorry");
    await user.type(search(), " 16 m");
    await waitFor(() => expect(address()).toBe("words=lorry+16+m&basket=with"));
    await user.click(button("Views"));
    await user.type(screen.getByRole("textbox", { name: "Name for this view" }), "Long ones{Enter}");
    expect(store.stores.preferences.getState().preferences.siteViews).toEqual([
      { name: "Lorries", address: "words=lorry&basket=with" },
      { name: "Long ones", address: "words=lorry+16+m&basket=with" },
    ]);
  });

  it("is read from an address that was cut off where it was copied", () => {
    const look = lookOf(new URLSearchParams('words=dog&state=chat|idle&folded=["/fares","/tim'));
    expect(look.search).toBe("dog");
    expect(look.states).toEqual(["chat", "idle"]);
    expect(look.folded).toEqual([]);
    expect(lookOf(new URLSearchParams('folded=["/fares"]')).folded).toEqual(["/fares"]);
    expect(lookOf(new URLSearchParams("folded=3&group=none")).folded).toEqual([]);
  });
});
