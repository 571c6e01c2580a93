import { act, screen, waitFor } from "@testing-library/react";
import { useEffect, useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { draw, leave } from "../desk/drawn";
import { FakeServer } from "../desk/fake-desk";
import { useEdited, useEditing } from "./editing";
import { useSaving } from "./saving";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

interface Thing {
  version: number;
  name: string;
  words: string;
}

const first: Thing = { version: 1, name: "Bookings", words: "Hello" };

/** Plays the server: stores when the test says so, and tells what others stored. */
let store: (thing: Thing) => Promise<Thing>;
let arrives: (thing: Thing) => void;

function Form({ name = "thing.1", from = first }: { name?: string; from?: Thing }) {
  const [stored, setStored] = useState(from);
  useEffect(() => {
    arrives = setStored;
  }, []);
  const editing = useEditing(name, stored);
  const saving = useSaving();
  const edited = useEdited("thing");
  const save = () =>
    void saving.run(async () => editing.saved(await store(editing.value), "thing.1"), "Saved");
  const field = (name: "name" | "words") => (
    <input
      aria-label={name}
      value={editing.value[name]}
      onChange={(e) => editing.change({ [name]: e.target.value })}
    />
  );
  return (
    <>
      {field("name")}
      {field("words")}
      <button onClick={save}>Save</button>
      <button onClick={editing.undo}>Undo</button>
      <button onClick={editing.keepMine}>Keep mine</button>
      <output>
        {editing.changed ? "changed" : "as stored"}, {editing.theirs ? `theirs: ${editing.theirs.name}` : ""},{" "}
        {[...edited].join()}
      </output>
      <p>{saving.trouble}</p>
    </>
  );
}

const field = (name: string) => screen.getByLabelText(name);
const button = (name: string) => screen.getByRole("button", { name });
const standing = () =>
  screen
    .getAllByRole("status")
    .map((s) => s.textContent)
    .join(" ");

beforeEach(() => {
  localStorage.clear();
  store = (thing) => Promise.resolve({ ...thing, version: thing.version + 1 });
});

describe("what is being edited", () => {
  it("that is typed while a save is on its way is not lost with it, and is saved next", async () => {
    const sent: Thing[] = [];
    let answer: () => void = () => undefined;
    store = (thing) => {
      sent.push(thing);
      return new Promise((done) => (answer = () => done({ ...thing, version: thing.version + 1 })));
    };
    const { user } = await draw(new FakeServer(), <Form />);
    await user.type(field("name"), " desk");
    await user.click(button("Save"));
    await user.type(field("words"), " there");
    await act(async () => answer());
    await screen.findByText("Saved");
    expect(field("name")).toHaveProperty("value", "Bookings desk");
    expect(field("words")).toHaveProperty("value", "Hello there");
    expect(standing()).toContain("changed, , 1");
    await user.click(button("Save"));
    await act(async () => answer());
    await waitFor(() => expect(standing()).toContain("as stored"));
    expect(sent).toEqual([
      { version: 1, name: "Bookings desk", words: "Hello" },
      { version: 2, name: "Bookings desk", words: "Hello there" },
    ]);
    expect(field("words")).toHaveProperty("value", "Hello there");
  });

  it("that is new and typed on while it is stored goes on as what it has become", async () => {
    let answer: () => void = () => undefined;
    store = (thing) => new Promise((done) => (answer = () => done({ ...thing, version: 7, name: "Stored" })));
    const { user } = await draw(new FakeServer(), <Form name="thing.new" />);
    await user.type(field("name"), " desk");
    await user.click(button("Save"));
    await user.type(field("words"), " there");
    await act(async () => answer());
    await waitFor(() => expect(standing()).toContain("as stored, , 1"));
    leave();
    await draw(new FakeServer(), <Form from={{ version: 7, name: "Stored", words: "Hello" }} />);
    expect(field("words")).toHaveProperty("value", "Hello there");
    expect(field("name")).toHaveProperty("value", "Stored");
    expect(standing()).toContain("changed, , 1");
  });

  it("that was stored after one turned to something else is not edited any more", async () => {
    let answer: () => void = () => undefined;
    store = (thing) => new Promise((done) => (answer = () => done({ ...thing, version: thing.version + 1 })));
    const { user } = await draw(new FakeServer(), <Form />);
    await user.type(field("name"), " desk");
    await user.click(button("Save"));
    leave();
    await act(async () => answer());
    await draw(new FakeServer(), <Form from={{ version: 2, name: "Bookings desk", words: "Hello" }} />);
    expect(standing()).toContain("as stored, , ");
  });

  it("is nothing once it is as it was, or was undone", async () => {
    const { user } = await draw(new FakeServer(), <Form />);
    await user.type(field("name"), "s");
    expect(standing()).toContain("changed, , 1");
    await user.type(field("name"), "{Backspace}");
    expect(standing()).toContain("as stored");
    await user.type(field("words"), "!");
    await user.click(button("Undo"));
    expect(field("words")).toHaveProperty("value", "Hello");
    await waitFor(() => expect(standing()).toContain("as stored, , "));
  });

  it("stays when it could not be stored, with why", async () => {
    store = () => Promise.reject(new Error("full"));
    const { user } = await draw(new FakeServer(), <Form />);
    await user.type(field("name"), " desk");
    await user.click(button("Save"));
    await screen.findByText(/what you typed is kept/);
    expect(field("name")).toHaveProperty("value", "Bookings desk");
    expect(standing()).toContain("changed");
  });

  it("is told from what a colleague stored meanwhile, and goes over it only when somebody wants that", async () => {
    const sent: Thing[] = [];
    store = (thing) => {
      sent.push(thing);
      return Promise.resolve({ ...thing, version: thing.version + 1 });
    };
    const { user } = await draw(new FakeServer(), <Form />);
    await user.type(field("words"), " there");
    act(() => arrives({ version: 5, name: "Tickets", words: "Hello" }));
    expect(standing()).toContain("theirs: Tickets");
    expect(field("words")).toHaveProperty("value", "Hello there");
    expect(field("name")).toHaveProperty("value", "Bookings");
    await user.click(button("Keep mine"));
    expect(standing()).not.toContain("theirs");
    await user.click(button("Save"));
    await screen.findByText("Saved");
    expect(sent).toEqual([{ version: 5, name: "Bookings", words: "Hello there" }]);
  });

  it("follows what others store as long as nothing was typed", async () => {
    const { user } = await draw(new FakeServer(), <Form />);
    act(() => arrives({ version: 2, name: "Tickets", words: "Hello" }));
    expect(field("name")).toHaveProperty("value", "Tickets");
    await user.click(button("Save"));
    await screen.findByText("Saved");
    act(() => arrives({ version: 4, name: "Fares", words: "Hello" }));
    expect(field("name")).toHaveProperty("value", "Fares");
  });
});
