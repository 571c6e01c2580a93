import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { EventView, Suggestion } from "../../shared/types";
import { Composer } from "./composer";
import { draw, leave, type Drawn } from "./drawn";
import { chat, FakeServer, fine, refused, said } from "./fake-desk";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const wren = chat("wren", { name: "Wren Castellane", phase: "active", ownerId: "maren" });
const mine: EventView = { ...said(5, "There is a ramp."), side: "team", by: "maren" };

const suggestion = (shortcut: string, text: string, more: Partial<Suggestion> = {}): Suggestion => ({
  id: shortcut,
  scope: "common",
  shortcut,
  language: "",
  match: shortcut,
  text,
  ...more,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [wren];
});

const usual = {
  chatId: "wren",
  limit: 100,
  name: "Wren Castellane",
  number: 2,
  primary: true,
  correctable: undefined,
  correcting: undefined,
  onCorrect: () => undefined,
};

/** Draws the composer of Wren's lane. */
async function composer(props: Partial<Parameters<typeof Composer>[0]> = {}): Promise<Drawn> {
  return draw(server, <Composer {...usual} {...props} />, {
    answer: ({ method, data }) => {
      if (method === "say") return { number: 6, at: "2026-09-17T13:34:00Z", ...data };
      if (method === "suggest") return suggestions(String(data["text"]), data["all"] === true);
      return undefined;
    },
  });
}

let suggestions: (text: string, all: boolean) => Suggestion[] = () => [];
beforeEach(() => {
  suggestions = () => [];
});

const field = () => screen.getByRole("textbox");
const limit = () => document.querySelector(".notice .left")?.textContent;
const sentWords = (drawn: Drawn) => drawn.live.asked("say").map((d) => d["text"]);

describe("writing", () => {
  it("names whom it speaks to, sends by Enter and makes a line by Shift and Enter", async () => {
    const drawn = await composer();
    expect(field().getAttribute("aria-label")).toBe("Reply to 2 Wren Castellane");
    await drawn.user.type(field(), "The ramp is steep.{Shift>}{Enter}{/Shift}Mind your step.{Enter}");
    expect(sentWords(drawn)).toEqual(["The ramp is steep.\nMind your step."]);
    expect(field()).toHaveProperty("value", "");
  });

  it("keeps what is typed when the page goes, and forgets it once it is sent", async () => {
    const first = await composer();
    await first.user.type(field(), "half a sent");
    leave();
    const second = await composer();
    expect(field()).toHaveProperty("value", "half a sent");
    await second.user.type(field(), "ence{Enter}");
    expect(sentWords(second)).toEqual(["half a sentence"]);
    leave();
    await composer();
    expect(field()).toHaveProperty("value", "");
  });

  it("sends nothing of spaces alone, and nothing that is too long", async () => {
    const drawn = await composer();
    await drawn.user.type(field(), "   {Enter}");
    await drawn.user.clear(field());
    await drawn.user.click(field());
    await drawn.user.paste("x".repeat(103));
    expect(limit()).toBe("3 characters too many");
    expect(screen.getByRole("button", { name: /^Send/ })).toHaveProperty("disabled", true);
    await drawn.user.type(field(), "{Enter}");
    expect(sentWords(drawn)).toEqual([]);
    expect(field()).toHaveProperty("value", "x".repeat(103));
  });

  it("counts an emoji as one character, as the server does", async () => {
    const drawn = await composer();
    await drawn.user.click(field());
    await drawn.user.paste("🚢".repeat(90));
    expect(limit()).toBe("10 characters left");
  });
});

describe("canned responses", () => {
  it("are put in by Tab in place of the shortcut, the rest stays, and their use is counted", async () => {
    suggestions = (text) =>
      text.endsWith("ramp") ? [suggestion("ramp", "The ramp opens 30 minutes before.")] : [];
    const drawn = await composer();
    await drawn.user.type(field(), "Hello! ramp");
    await screen.findByRole("option", { name: /ramp opens/ });
    await drawn.user.tab();
    expect(field()).toHaveProperty("value", "Hello! The ramp opens 30 minutes before.");
    await drawn.user.type(field(), "{Enter}");
    expect(drawn.live.asked("say")[0]).toMatchObject({
      text: "Hello! The ramp opens 30 minutes before.",
      canned: "ramp",
    });
  });

  it("leave the text as typed by Esc, until another word begins", async () => {
    suggestions = (text) => (text.includes("ramp") ? [suggestion("ramp", "The ramp opens.")] : []);
    const drawn = await composer();
    await drawn.user.type(field(), "ramp");
    await screen.findByRole("option");
    await drawn.user.keyboard("{Escape}s");
    expect(screen.queryByRole("option")).toBeNull();
    expect(field()).toHaveProperty("value", "ramps");
    await drawn.user.keyboard(" ");
    await screen.findByRole("option");
  });

  it("are listed in full by a semicolon, chosen by arrows and put in by Enter, which sends nothing then", async () => {
    suggestions = (_, all) => (all ? [suggestion("cabin", "Cabins."), suggestion("car", "Cars.")] : []);
    const drawn = await composer();
    await drawn.user.type(field(), "Yes. ;ca");
    const list = await screen.findByRole("listbox");
    await waitFor(() => expect(within(list).getAllByRole("option")).toHaveLength(2));
    await drawn.user.keyboard("{ArrowDown}{Enter}");
    expect(field()).toHaveProperty("value", "Yes. Cars.");
    expect(sentWords(drawn)).toEqual([]);
    // From the last one the arrow goes on to the first.
    await drawn.user.type(field(), " ;c");
    await waitFor(() => expect(screen.getAllByRole("option")).toHaveLength(2));
    await drawn.user.keyboard("{ArrowUp}{ArrowUp}{ArrowUp}{Enter}");
    expect(field()).toHaveProperty("value", "Yes. Cars. Cars.");
  });

  it("are never sent with a hole: the send stops, says which, and goes when it is filled", async () => {
    suggestions = (text) =>
      text === "ref"
        ? [suggestion("ref", "Your booking {form.booking} is safe.", { missing: ["form.booking"] })]
        : [];
    const drawn = await composer();
    await drawn.user.type(field(), "ref");
    expect((await screen.findByRole("option")).textContent).toContain("missing: form.booking");
    await drawn.user.tab();
    await drawn.user.keyboard("{Enter}");
    expect(limit()).toBe("Not sent: fill in {form.booking} or remove it.");
    expect(sentWords(drawn)).toEqual([]);
    await drawn.user.clear(field());
    await drawn.user.type(field(), "Your booking KF1 is safe.{Enter}");
    expect(sentWords(drawn)).toEqual(["Your booking KF1 is safe."]);
  });

  it("are not sent with a hole after the lane was away, or after another was put in besides", async () => {
    suggestions = (text) => [
      ...(text === "ref"
        ? [suggestion("ref", "Your booking {form.booking}", { missing: ["form.booking"] })]
        : []),
      ...(text.endsWith("bye") ? [suggestion("bye", "Goodbye.")] : []),
    ];
    const first = await composer();
    await first.user.type(field(), "ref");
    await screen.findByRole("option");
    await first.user.tab();
    leave();
    const second = await composer();
    await second.user.type(field(), "{Enter}");
    expect(limit()).toContain("Not sent: fill in {form.booking}");
    await second.user.type(field(), " bye");
    await screen.findByRole("option", { name: /Goodbye/ });
    await second.user.tab();
    await second.user.keyboard("{Enter}");
    expect(field()).toHaveProperty("value", "Your booking {form.booking} Goodbye.");
    expect(sentWords(first).concat(sentWords(second))).toEqual([]);
  });

  it("show the answer to the latest key only, however late an earlier one comes", async () => {
    const answers = new Map<string, (list: Suggestion[]) => void>();
    const drawn = await composer();
    drawn.live.answer = ({ method, data }) =>
      method === "suggest" ? new Promise((done) => answers.set(String(data["text"]), done)) : undefined;
    await drawn.user.type(field(), "ra");
    answers.get("ra")?.([suggestion("ramp", "New.")]);
    await screen.findByRole("option", { name: /New/ });
    answers.get("r")?.([suggestion("rail", "Old.")]);
    await drawn.user.keyboard("{ArrowDown}");
    expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual([expect.stringContaining("New")]);
  });
});

describe("notes", () => {
  it("are written apart from the answer, so that neither is sent as the other", async () => {
    server.answers.set("POST /api/chats/wren/notes", fine(wren));
    const drawn = await composer();
    await drawn.user.type(field(), "for Wren");
    await drawn.user.click(screen.getByRole("button", { name: "Note to team" }));
    expect(field()).toHaveProperty("value", "");
    expect(field().getAttribute("aria-label")).toContain("the visitor never sees it");
    await drawn.user.type(field(), "knows the captain{Enter}");
    await waitFor(() =>
      expect(server.got("POST /api/chats/wren/notes")).toMatchObject([{ text: "knows the captain" }]),
    );
    expect(sentWords(drawn)).toEqual([]);
    expect(field()).toHaveProperty("value", "for Wren");
    await drawn.user.keyboard(", the ramp.{Enter}");
    expect(sentWords(drawn)).toEqual(["for Wren, the ramp."]);
  });

  it("go on one after the other only where that was asked for", async () => {
    server.answers.set("POST /api/chats/wren/notes", fine(wren));
    const drawn = await composer();
    await drawn.user.click(screen.getByRole("button", { name: "Note to team" }));
    await drawn.user.click(screen.getByRole("button", { name: "Keep writing notes" }));
    await drawn.user.type(field(), "one{Enter}");
    await drawn.user.type(field(), "two{Enter}");
    await waitFor(() =>
      expect(server.got("POST /api/chats/wren/notes")).toMatchObject([{ text: "one" }, { text: "two" }]),
    );
    expect(sentWords(drawn)).toEqual([]);
  });

  it("that could not be stored come back as notes, whatever is being written to the visitor by then", async () => {
    let refuse: () => void = () => undefined;
    const held = new Promise<void>((done) => (refuse = done));
    server.hold.set("POST /api/chats/wren/notes", held);
    server.answers.set("POST /api/chats/wren/notes", refused("The chat has ended"));
    const drawn = await composer();
    await drawn.user.click(screen.getByRole("button", { name: "Note to team" }));
    await drawn.user.type(field(), "he is drunk{Enter}");
    await drawn.user.type(field(), "Good evening");
    refuse();
    await screen.findByText(/The chat has ended/);
    expect(field()).toHaveProperty("value", "Good evening");
    await drawn.user.type(field(), "!{Enter}");
    expect(sentWords(drawn)).toEqual(["Good evening!"]);
    await drawn.user.click(screen.getByRole("button", { name: "Open it" }));
    expect(field()).toHaveProperty("value", "he is drunk");
    expect(field().getAttribute("aria-label")).toContain("the visitor never sees it");
  });

  it("do not show the visitor that somebody types", async () => {
    const drawn = await composer();
    await drawn.user.click(screen.getByRole("button", { name: "Note to team" }));
    await drawn.user.type(field(), "secret");
    expect(drawn.live.asked("typing").filter((d) => d["typing"])).toEqual([]);
  });
});

describe("correcting", () => {
  it("begins by the arrow in the empty field only, where the arrow has no other use", async () => {
    const onCorrect = vi.fn<(event: EventView | undefined) => void>();
    const drawn = await composer({ correctable: mine, onCorrect });
    await drawn.user.type(field(), "x{ArrowUp}");
    expect(onCorrect).not.toHaveBeenCalled();
    await drawn.user.keyboard("{Backspace}{ArrowUp}");
    expect(onCorrect).toHaveBeenCalledWith(mine);
  });

  it("has a text of its own: the half-written answer is there again afterwards", async () => {
    localStorage.setItem("stoop.desk.draft.wren", "half an answer");
    server.answers.set("PUT /api/chats/wren/events/5", fine({}));
    const onCorrect = vi.fn<(event: EventView | undefined) => void>();
    const drawn = await composer({ correcting: mine, onCorrect });
    expect(field()).toHaveProperty("value", "There is a ramp.");
    await drawn.user.clear(field());
    await drawn.user.type(field(), "There is a lift.{Enter}");
    expect(onCorrect).toHaveBeenCalledWith(undefined);
    await waitFor(() =>
      expect(server.got("PUT /api/chats/wren/events/5")).toEqual([{ text: "There is a lift." }]),
    );
    expect(sentWords(drawn)).toEqual([]);
    expect(localStorage.getItem("stoop.desk.draft.wren")).toBe("half an answer");
  });

  it("asks nothing of the server when nothing was changed, and leaves by Esc", async () => {
    const onCorrect = vi.fn<(event: EventView | undefined) => void>();
    const drawn = await composer({ correcting: mine, onCorrect });
    await drawn.user.click(field());
    await drawn.user.keyboard("{Enter}");
    await drawn.user.keyboard("{Escape}");
    expect(onCorrect).toHaveBeenCalledTimes(2);
    expect(server.sent).toEqual([]);
  });
});

describe("files", () => {
  const choose = (drawn: Drawn, ...files: File[]) =>
    drawn.user.upload(screen.getByLabelText("Files for Wren Castellane"), files);

  it("wait beside the words, several at once, and each can be left out", async () => {
    const drawn = await composer();
    await choose(drawn, new File(["plan"], "plan.txt"), new File(["menu"], "menu.txt"));
    await drawn.user.click(await screen.findByRole("button", { name: "Remove plan.txt" }));
    const list = screen.getByRole("list", { name: "Goes with the next message" });
    expect(
      within(list)
        .getAllByRole("listitem")
        .map((li) => li.textContent),
    ).toEqual(["menu.txt4 bytes"]);
  });

  it("wait there still when the lane was away", async () => {
    function Away() {
      const [away, setAway] = useState(false);
      return (
        <>
          <button onClick={() => setAway(!away)}>away or back</button>
          {away ? null : <Composer {...usual} />}
        </>
      );
    }
    const drawn = await draw(server, <Away />);
    await choose(drawn, new File(["plan"], "plan.txt"));
    await drawn.user.click(screen.getByRole("button", { name: "away or back" }));
    expect(screen.queryByRole("textbox")).toBeNull();
    await drawn.user.click(screen.getByRole("button", { name: "away or back" }));
    expect(await screen.findByRole("button", { name: "Remove plan.txt" })).toBeTruthy();
  });

  it("go without words, too", async () => {
    const drawn = await composer();
    const share = vi.spyOn(drawn.store.uploads, "share").mockReturnValue(undefined);
    await choose(drawn, new File(["plan"], "plan.txt"));
    await drawn.user.click(screen.getByRole("button", { name: /^Send/ }));
    expect(share.mock.calls[0]?.[1].map((a) => ("file" in a ? a.file.name : ""))).toEqual(["plan.txt"]);
    expect(screen.queryByRole("list", { name: "Goes with the next message" })).toBeNull();
    expect(sentWords(drawn)).toEqual([]);
  });

  it("that are too large are named with the limit; the others stay", async () => {
    const drawn = await composer();
    await choose(drawn, new File(["x".repeat(2000)], "film.mp4"), new File(["plan"], "plan.txt"));
    await screen.findByText(/film\.mp4 has 2 kB/);
    expect(await screen.findByRole("button", { name: "Remove plan.txt" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Remove film.mp4" })).toBeNull();
  });

  it("come by paste, while pasted words stay words", async () => {
    const drawn = await composer();
    await drawn.user.click(field());
    await drawn.user.paste("just words");
    expect(field()).toHaveProperty("value", "just words");
    fireEvent.paste(field(), {
      clipboardData: { files: [new File(["png"], "shot.png", { type: "image/png" })] },
    });
    await screen.findByRole("button", { name: "Remove shot.png" });
    expect(field()).toHaveProperty("value", "just words");
  });
});

describe("the lane in use", () => {
  it("alone listens to keys: a note is not begun in a lane that one does not look at", async () => {
    const drawn = await composer({ primary: false });
    await drawn.user.keyboard("{Alt>}[KeyM]{/Alt}");
    expect(field().getAttribute("aria-label")).toBe("Reply to 2 Wren Castellane");
    leave();
    const used = await composer();
    await used.user.keyboard("{Alt>}[KeyM]{/Alt}");
    expect(field().getAttribute("aria-label")).toContain("Note to team");
  });
});

describe("in a chat that is translated", () => {
  const translating = { theirs: "de", ours: "en" };
  const preview = "POST /api/chats/wren/translations";
  const german = (text: string) => ({ language: "de", text });
  beforeEach(() => {
    server.answers.set("/api/translator", fine({ languages: ["en", "de"], shownSoon: false }));
    server.answers.set(preview, (body) => fine(german(`auf Deutsch: ${(body as { text: string }).text}`)));
  });
  const sent = (drawn: Drawn) => drawn.live.asked("say").map((d) => [d["text"], d["translation"]]);

  it("shows what the visitor will read before it goes, and sends just that", async () => {
    const drawn = await composer({ translating });
    await drawn.user.type(field(), "There is a ramp.{Enter}");
    await screen.findByText("auf Deutsch: There is a ramp.");
    expect(sent(drawn)).toEqual([]);
    await drawn.user.type(field(), " It is steep.");
    expect(screen.queryByText("auf Deutsch: There is a ramp.")).toBeNull();
    await drawn.user.type(field(), "{Enter}");
    await screen.findByText("auf Deutsch: There is a ramp. It is steep.");
    await drawn.user.type(field(), "{Enter}");
    expect(sent(drawn)).toEqual([
      ["There is a ramp. It is steep.", german("auf Deutsch: There is a ramp. It is steep.")],
    ]);
    expect(field()).toHaveProperty("value", "");
  });

  it("does not take a translation that comes late for that of other words", async () => {
    let answer = () => {};
    server.hold.set(preview, new Promise((done) => (answer = done)));
    const drawn = await composer({ translating });
    await drawn.user.type(field(), "One{Enter}");
    await screen.findByText(/Translating into German/);
    await drawn.user.type(field(), " and two{Enter}");
    answer();
    await screen.findByText("auf Deutsch: One and two");
    expect(sent(drawn)).toEqual([]);
    await drawn.user.type(field(), "{Enter}");
    expect(sent(drawn)).toEqual([["One and two", german("auf Deutsch: One and two")]]);
  });

  it("keeps the words when the translator does not answer, and sends them as they are only when asked to", async () => {
    server.answers.set(preview, refused("The translator does not answer"));
    const drawn = await composer({ translating });
    await drawn.user.type(field(), "There is a ramp.{Enter}");
    await screen.findByText(/The translator does not answer/);
    expect(field()).toHaveProperty("value", "There is a ramp.");
    expect(sent(drawn)).toEqual([]);
    server.answers.set(preview, fine(german("Es gibt eine Rampe.")));
    await drawn.user.type(field(), "{Enter}");
    await screen.findByText("Es gibt eine Rampe.");
    await drawn.user.click(screen.getByRole("button", { name: "Send untranslated" }));
    expect(sent(drawn)).toEqual([["There is a ramp.", undefined]]);
  });

  it("translates no note, and sends at once where that is set", async () => {
    server.answers.set("/api/translator", fine({ languages: ["en", "de"], shownSoon: true }));
    const drawn = await composer({ translating });
    await drawn.user.type(field(), "There is a ramp.{Enter}");
    await waitFor(() =>
      expect(sent(drawn)).toEqual([["There is a ramp.", german("auf Deutsch: There is a ramp.")]]),
    );
    await drawn.user.click(screen.getByRole("button", { name: /Note to team/ }));
    await drawn.user.type(field(), "a regular{Enter}");
    expect(server.got("POST /api/chats/wren/notes")).toHaveLength(1);
    expect(server.got(preview)).toHaveLength(1);
  });
});

describe("the address of a page", () => {
  const at = (url: string) => `/api/chats/wren/page?url=${encodeURIComponent(url)}`;
  const offer = "POST /api/chats/wren/page";
  beforeEach(() => {
    server.answers.set(at("https://kelpwick.example/fares"), fine({ title: "Fares", carried: true }));
    server.answers.set(offer, fine({}));
  });

  it("is offered to be shown, without the full stop behind it, and words around it stay", async () => {
    const drawn = await composer();
    await drawn.user.type(field(), "Look here: https://kelpwick.example/fares.");
    await drawn.user.click(await screen.findByRole("button", { name: "Offer it" }));
    expect(server.got(offer)).toEqual([expect.objectContaining({ url: "https://kelpwick.example/fares" })]);
    expect(field()).toHaveProperty("value", "Look here: https://kelpwick.example/fares.");
    expect(sentWords(drawn)).toEqual([]);
  });

  it("that stands alone goes from the field when it is offered, and not when that fails", async () => {
    server.answers.set(offer, refused("This page is not on a site of this chat"));
    const drawn = await composer();
    await drawn.user.type(field(), "https://kelpwick.example/fares");
    await drawn.user.click(await screen.findByRole("button", { name: "Offer it" }));
    await waitFor(() => expect(server.got(offer)).toHaveLength(1));
    expect(field()).toHaveProperty("value", "https://kelpwick.example/fares");
    server.answers.set(offer, fine({}));
    await drawn.user.click(screen.getByRole("button", { name: "Offer it" }));
    await waitFor(() => expect(field()).toHaveProperty("value", ""));
  });

  it("that does not carry the chat is a link like any other", async () => {
    server.answers.set(at("https://elsewhere.example/"), fine({ title: "", carried: false }));
    const drawn = await composer();
    await drawn.user.type(field(), "https://elsewhere.example/{Enter}");
    expect(sentWords(drawn)).toEqual(["https://elsewhere.example/"]);
    expect(screen.queryByRole("button", { name: "Offer it" })).toBeNull();
  });
});
