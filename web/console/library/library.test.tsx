import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { CannedView, ImportView } from "../../shared/types";
import { draw, leave } from "../desk/drawn";
import { FakeServer, fine, maren, refused } from "../desk/fake-desk";
import { ArticlesPage } from "./articles";
import { CannedPage } from "./canned";
import { freshCanned } from "./canned-form";
import KeepAsCanned from "./keep-as-canned";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const canned = (id: string, change: Partial<CannedView> = {}): CannedView => ({
  ...freshCanned,
  id,
  version: 1,
  shortcut: id,
  text: `The answer about ${id}.`,
  ...change,
});

let server: FakeServer;
let stored: CannedView[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  stored = [
    canned("ramp", { folder: "Boarding" }),
    canned("dogs", { scope: "common", mayEdit: false, uses: 7 }),
  ];
  server.answers.set("/api/canned", () => fine(stored));
  server.answers.set("PUT /api/canned", (body) => {
    const saved = body as CannedView;
    const now = { ...saved, id: saved.id ?? saved.shortcut, version: saved.version + 1 };
    stored = [...stored.filter((c) => c.id !== now.id), now];
    return fine(now);
  });
});

const answer = () => screen.getByRole("textbox", { name: "Answer" });
const open = async (shortcut: string) => screen.findByRole("button", { name: new RegExp(`^;${shortcut}`) });
const button = (name: string) => screen.getByRole("button", { name });

describe("canned responses", () => {
  it("are found by all words of the search, in shortcut, folder and answer", async () => {
    const { user } = await draw(server, <CannedPage />);
    await open("ramp");
    expect(screen.getByRole("status").textContent).toBe("2 in total");
    await user.type(screen.getByRole("searchbox"), "boarding RAMP");
    expect(screen.getByRole("status").textContent).toBe("1 of 2");
    await user.clear(screen.getByRole("searchbox"));
    await user.type(screen.getByRole("searchbox"), "submarine");
    expect(screen.getByText("No matches.")).toBeTruthy();
  });

  it("are changed and stored under the version that was read", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    expect(button("Save")).toHaveProperty("disabled", true);
    await user.type(answer(), " It is steep.");
    await user.click(button("Save"));
    await screen.findByText(";ramp saved");
    expect(server.got("PUT /api/canned")).toMatchObject([
      { id: "ramp", version: 1, text: "The answer about ramp. It is steep." },
    ]);
    await waitFor(() => expect(button("Save")).toHaveProperty("disabled", true));
    expect(answer()).toHaveProperty("value", "The answer about ramp. It is steep.");
    // The next change goes over what was just stored, not over what was read first.
    await user.type(answer(), " Mind your step.");
    await user.click(button("Save"));
    await waitFor(() => expect(server.got("PUT /api/canned").at(-1)).toMatchObject({ version: 2 }));
  });

  it("that are being written outlast the look at another one and the turn to a chat; the list marks them", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.type(answer(), " It is");
    await user.click(await open("dogs"));
    expect((await open("ramp")).textContent).toContain("not saved");
    leave();
    const again = await draw(server, <CannedPage />);
    await again.user.click(await open("ramp"));
    expect(answer()).toHaveProperty("value", "The answer about ramp. It is");
    await again.user.click(button("Undo changes"));
    expect(answer()).toHaveProperty("value", "The answer about ramp.");
    expect((await open("ramp")).textContent).not.toContain("not saved");
  });

  it("that a colleague stored meanwhile are shown beside one's own words, which are not lost", async () => {
    const { user, live } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.type(answer(), " Mine.");
    stored = [canned("ramp", { version: 2, text: "Theirs." })];
    live.arrives({ type: "library" });
    expect((await screen.findByRole("alert")).textContent).toContain("Theirs: Theirs.");
    expect(answer()).toHaveProperty("value", "The answer about ramp. Mine.");
    await user.click(button("Keep mine"));
    await user.click(button("Save"));
    await waitFor(() =>
      expect(server.got("PUT /api/canned")).toMatchObject([
        { version: 2, text: "The answer about ramp. Mine." },
      ]),
    );
  });

  it("can be theirs after all", async () => {
    const { user, live } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.type(answer(), " Mine.");
    stored = [canned("ramp", { version: 2, text: "Theirs." })];
    live.arrives({ type: "library" });
    await user.click(await screen.findByRole("button", { name: "Use theirs" }));
    expect(answer()).toHaveProperty("value", "Theirs.");
    expect(button("Save")).toHaveProperty("disabled", true);
  });

  it("that a colleague deleted while one wrote stand under New with all that was typed", async () => {
    const { user, live } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.type(answer(), " Mine.");
    stored = stored.filter((c) => c.id !== "ramp");
    live.arrives({ type: "library" });
    await screen.findByText(/;ramp was deleted by a colleague/);
    await screen.findByRole("heading", { name: "New canned response" });
    expect(answer()).toHaveProperty("value", "The answer about ramp. Mine.");
    await user.click(button("Save"));
    await waitFor(() =>
      expect(server.got("PUT /api/canned")).toMatchObject([{ version: 0, shortcut: "ramp" }]),
    );
    expect(server.got("PUT /api/canned")[0]).not.toHaveProperty("id");
  });

  it("are read anew when storing says that a colleague was faster", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.type(answer(), " Mine.");
    stored = [canned("ramp", { version: 2, text: "Theirs." })];
    server.answers.set("PUT /api/canned", refused("a colleague changed this meanwhile", { code: "changed" }));
    await user.click(button("Save"));
    await screen.findByRole("button", { name: "Keep mine" });
    expect(answer()).toHaveProperty("value", "The answer about ramp. Mine.");
  });

  it("say at the field what is wrong, until it is changed", async () => {
    server.answers.set(
      "PUT /api/canned",
      refused("Look at the fields", { fields: [{ field: "shortcut", words: "ramp is taken." }] }),
    );
    const { user } = await draw(server, <CannedPage />);
    await user.click(await screen.findByRole("button", { name: "New" }));
    await user.type(screen.getByRole("textbox", { name: "Shortcut" }), "ramp");
    await user.type(answer(), "Again.");
    await user.click(button("Save"));
    await screen.findByText("ramp is taken.");
    await user.type(screen.getByRole("textbox", { name: "Shortcut" }), "2");
    expect(screen.queryByText("ramp is taken.")).toBeNull();
    expect(answer()).toHaveProperty("value", "Again.");
  });

  it("of the team are read by operators, who may keep a copy of their own", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("dogs"));
    expect(screen.queryByRole("textbox", { name: "Answer" })).toBeNull();
    await user.click(button("Keep my own copy"));
    await waitFor(() =>
      expect(server.got("PUT /api/canned")).toMatchObject([{ scope: "own", shortcut: "dogs", version: 0 }]),
    );
  });

  it("are shared by leads alone, with everybody or a department", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.click(screen.getByRole("combobox", { name: "Shared with" }));
    expect(
      within(await screen.findByRole("listbox"))
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["only me"]);
    leave();
    const lead = { ...maren, role: "lead" as const };
    server.desk.me = lead;
    const as = await draw(server, <CannedPage />, { me: lead });
    await as.user.click(await open("ramp"));
    await as.user.click(screen.getByRole("combobox", { name: "Shared with" }));
    expect(
      within(await screen.findByRole("listbox"))
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["only me", "everybody", "Travel help"]);
  });

  it("take placeholders at the cursor, ready for the words when nothing is known", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await screen.findByRole("button", { name: "New" }));
    await user.type(answer(), "Hello !");
    (answer() as HTMLTextAreaElement).setSelectionRange(6, 6);
    await user.click(button("{visitor.first}"));
    expect(answer()).toHaveProperty("value", "Hello {visitor.first|}!");
    await waitFor(() => expect(document.activeElement).toBe(answer()));
    await user.keyboard("there");
    expect(answer()).toHaveProperty("value", "Hello {visitor.first|there}!");
  });

  it("are deleted for all only after a second word", async () => {
    server.answers.set("DELETE /api/canned/ramp", () => {
      stored = stored.filter((c) => c.id !== "ramp");
      return fine({});
    });
    const { user } = await draw(server, <CannedPage />);
    await user.click(await open("ramp"));
    await user.click(button("Delete"));
    await user.click(button("Keep it"));
    expect(server.sent).toEqual([]);
    await user.click(button("Delete"));
    await user.click(button("Delete"));
    await waitFor(() => expect(screen.queryByRole("button", { name: /^;ramp/ })).toBeNull());
  });
});

describe("an import", () => {
  const plan: ImportView = {
    add: [{ line: 2, scope: "own", shortcut: "cats", after: "Cats ride free." }],
    change: [
      {
        line: 3,
        scope: "own",
        shortcut: "ramp",
        before: "The answer about ramp.",
        after: "The ramp is new.",
      },
    ],
    rejected: [{ line: 4, words: ["This line has 3 fields instead of 2."] }],
    same: 5,
  };
  const csv = new File(["shortcut,text\ncats,Cats ride free."], "answers.csv", { type: "text/csv" });

  it("shows first what it would add, change and reject, by line, and changes nothing before it is told to", async () => {
    server.answers.set("POST /api/canned/import?apply=false", fine(plan));
    server.answers.set("POST /api/canned/import?apply=true", fine({ ...plan, rejected: [] }));
    const { user } = await draw(server, <CannedPage />);
    await user.click(await screen.findByRole("button", { name: "Import" }));
    await user.upload(screen.getByLabelText("Choose a file"), csv);
    await screen.findByText("1 to add, 1 to change, 5 unchanged, 1 rejected.");
    expect(screen.getByText("Line 4").parentElement?.textContent).toContain("3 fields instead of 2");
    const changed = screen.getByText("Line 3").parentElement as HTMLElement;
    expect(within(changed).getByText("The answer about ramp.").tagName).toBe("S");
    expect(server.got("POST /api/canned/import?apply=true")).toEqual([]);
    await user.click(button("Import 2"));
    await screen.findByText("Done: 1 added, 1 changed.");
    expect(server.got("POST /api/canned/import?apply=true")).toEqual([
      { csv: "shortcut,text\ncats,Cats ride free." },
    ]);
  });

  it("of a file that is no CSV of ours says why, and offers nothing to take in", async () => {
    server.answers.set(
      "POST /api/canned/import?apply=false",
      refused("Not read", { fields: [{ field: "csv", words: "The head line lacks shortcut and text." }] }),
    );
    const { user } = await draw(server, <CannedPage />);
    await user.click(await screen.findByRole("button", { name: "Import" }));
    await user.upload(screen.getByLabelText("Choose a file"), csv);
    await screen.findByText("The head line lacks shortcut and text.");
    expect(button("Import")).toHaveProperty("disabled", true);
  });

  it("of a file that is too large is not even sent", async () => {
    const { user } = await draw(server, <CannedPage />);
    await user.click(await screen.findByRole("button", { name: "Import" }));
    const large = new File(["x"], "large.csv", { type: "text/csv" });
    Object.defineProperty(large, "size", { value: 9_000_000 });
    await user.upload(screen.getByLabelText("Choose a file"), large);
    await screen.findByText("This file is larger than 8 MB. Split it.");
    expect(server.sent).toEqual([]);
  });
});

describe("keeping a message as a canned response", () => {
  it("treats its braces as text, and stays open with the words when the shortcut is taken", async () => {
    const closed = vi.fn();
    server.answers.set(
      "PUT /api/canned",
      refused("Look at the fields", { fields: [{ field: "shortcut", words: "ramp is taken." }] }),
    );
    const { user } = await draw(
      server,
      <KeepAsCanned text="Write {name} on it." departmentId="help" onClose={closed} />,
    );
    expect(answer()).toHaveProperty("value", "Write {{name} on it.");
    await user.type(screen.getByRole("textbox", { name: "Shortcut" }), "ramp");
    await user.click(button("Keep"));
    await screen.findByText("ramp is taken.");
    expect(closed).not.toHaveBeenCalled();
    server.answers.set("PUT /api/canned", (body) => fine(body));
    await user.type(screen.getByRole("textbox", { name: "Shortcut" }), "2");
    await user.click(button("Keep"));
    await waitFor(() => expect(closed).toHaveBeenCalled());
  });
});

describe("articles", () => {
  it("half written outlast the turn away, and open where one left", async () => {
    const article = {
      id: "a1",
      version: 1,
      folder: "",
      title: "Dogs on board",
      body: "Dogs ride free.",
      html: "<p>Dogs ride free.</p>",
      audience: "team",
    };
    server.answers.set("/api/articles?words=", fine([article]));
    server.answers.set("/api/articles/a1", fine(article));
    const page = (
      <Routes>
        <Route path="/library/articles/:id?" element={<ArticlesPage />} />
      </Routes>
    );
    const path = "/library/articles/a1";
    const { user } = await draw(server, page, { path });
    await user.click(await screen.findByRole("button", { name: "Edit" }));
    await user.type(screen.getByRole("textbox", { name: "Text, in Markdown" }), " Cats pay.");
    leave();
    await draw(server, page, { path });
    expect(await screen.findByRole("textbox", { name: "Text, in Markdown" })).toHaveProperty(
      "value",
      "Dogs ride free. Cats pay.",
    );
    expect((await screen.findByRole("button", { name: /Dogs on board/ })).textContent).toContain("not saved");
  });
});
