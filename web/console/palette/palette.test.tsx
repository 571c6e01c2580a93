import { screen, waitFor } from "@testing-library/react";
import { useState, type ReactNode } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { FakeLive } from "../../shared/fake-live";
import { draftKey, madeOf } from "../desk/drafts";
import { draw } from "../desk/drawn";
import { chat, FakeServer, fine, idris, place } from "../desk/fake-desk";
import { acts } from "../keyboard/acts";
import { actWords } from "../keyboard/acts-words";
import { useAct } from "../keyboard/keyboard";
import HelpSheet from "./help-sheet";
import Palette from "./palette";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.chats = [
    chat("wren", { name: "Wren Castellane", phase: "active", ownerId: "maren", lastWords: "A ramp?" }),
    chat("oskar", { name: "Oskar Brindle", lastWords: "A lorry" }),
  ];
});

/** Something on screen whose act can be done now. */
function Endable({ end }: { end: () => void }) {
  useAct("end", end);
  return null;
}

/** The palette is opened when the rest of the page is there. */
function OnceAsked({ children }: { children: ReactNode }) {
  const [asked, setAsked] = useState(false);
  return asked ? children : <button onClick={() => setAsked(true)}>open</button>;
}

const found = () => screen.queryAllByRole("option").map((o) => o.querySelector(".words")?.textContent);
const open = async (more: Partial<Parameters<typeof Palette>[0]> = {}, end = () => undefined) => {
  const drawn = await draw(
    server,
    <>
      <Endable end={end} />
      <OnceAsked>
        <Palette onClose={() => undefined} onTalk={() => undefined} {...more} />
      </OnceAsked>
    </>,
    { answer: () => [] },
  );
  await drawn.user.click(screen.getByRole("button", { name: "open" }));
  await screen.findByRole("dialog");
  return drawn;
};

describe("the palette", () => {
  it("begins with my chats, who waits, and the acts that can be done now, and no others", async () => {
    await open();
    expect(found()).toEqual(["Wren Castellane", "Oskar Brindle", "End the chat"]);
  });

  it("does the marked act by Enter after it is closed, and arrows go round", async () => {
    const order: string[] = [];
    const { user } = await open({ onClose: () => order.push("closed") }, () => void order.push("ended"));
    await user.keyboard("{ArrowUp}");
    expect(document.querySelector("[role=option].Mui-focused")?.textContent).toContain("End the chat");
    await user.keyboard("{ArrowDown}{ArrowUp}{Enter}");
    await waitFor(() => expect(order).toEqual(["closed", "ended"]));
  });

  it("keeps the keyboard in its field, whoever gives the focus back late", async () => {
    const { user } = await open();
    const other = document.body.appendChild(document.createElement("button"));
    other.focus();
    await user.keyboard("ramp");
    other.remove();
    expect(screen.getByRole("combobox")).toHaveProperty("value", "ramp");
  });

  it("finds by every word, in any order, and says when nothing has them", async () => {
    const { user } = await open();
    await user.keyboard("ramp wren");
    expect(found()).toEqual(["Wren Castellane"]);
    await user.keyboard(" submarine");
    expect(found()).toEqual([]);
    expect(screen.getByText("No matches. Try fewer letters.")).toBeTruthy();
  });

  it("finds colleagues to write to", async () => {
    const talk = vi.fn();
    const { user } = await open({ onTalk: talk });
    await user.keyboard("vane");
    expect(found()).toEqual(["Idris Vane"]);
    await user.keyboard("{Enter}");
    await waitFor(() => expect(talk).toHaveBeenCalledWith(idris.id));
  });

  it("finds articles, tickets and transcripts by what stands in them", async () => {
    server.answers.set(
      "/api/articles?words=trailer",
      fine([
        { id: "a1", title: "Bicycles", excerpt: "a trailer pays", folder: "", version: 1, audience: "team" },
      ]),
    );
    server.answers.set(
      "/api/transcripts?words=trailer",
      fine({ hits: [{ chat: chat("old", { name: "Tilda" }), excerpt: "my trailer" }], more: false }),
    );
    server.answers.set(
      "/api/tickets?words=trailer&status=all&order=updated",
      fine({ tickets: [{ id: "t1", number: 1007, title: "Trailer of 13.6 m", status: "us" }], total: 1 }),
    );
    const { user } = await open();
    await user.keyboard("trailer");
    await waitFor(() => expect(found()).toEqual(["Bicycles", "1007: Trailer of 13.6 m", "Tilda"]));
  });

  it("puts a canned response into the lane in use with all that belongs to it: its files, and its holes", async () => {
    const wren = server.desk.chats.find((c) => c.id === "wren");
    const script = { chat: wren, place: place("visitor-wren"), events: [] };
    server.answers.set("GET /api/chats/wren?after=0", fine(script));
    const { user, store } = await open();
    store.screen.focus("wren");
    FakeLive.last.answer = () => [
      {
        id: "r1",
        scope: "common",
        shortcut: "ref",
        language: "",
        match: "",
        text: "Your booking {form.booking}",
        missing: ["form.booking"],
        files: [{ id: "f1", name: "plan.pdf", size: 9 }],
      },
    ];
    await user.keyboard("booking");
    await waitFor(() => expect(found()).toEqual([";ref"]));
    await user.keyboard("{Enter}");
    await waitFor(() => expect(localStorage.getItem(draftKey("wren"))).toBe("Your booking {form.booking}"));
    expect(madeOf("wren")).toEqual({ canned: "r1", missing: ["form.booking"] });
    expect(store.words.attachedTo("wren").map((a) => ("stored" in a ? a.stored.name : ""))).toEqual([
      "plan.pdf",
    ]);
  });

  it("takes who waits, and turns to who is mine", async () => {
    server.answers.set("POST /api/chats/oskar/take?anyway=false", fine(chat("oskar", { phase: "active" })));
    const { user } = await open();
    await user.keyboard("oskar{Enter}");
    await waitFor(() =>
      expect(server.sent.map((s) => s.what)).toEqual(["POST /api/chats/oskar/take?anyway=false"]),
    );
  });
});

describe("the sheet of keys", () => {
  it("has every act that has a key, with it", async () => {
    await draw(server, <HelpSheet onClose={() => undefined} />);
    for (const act of acts.filter((a) => a.hint)) {
      const words = actWords(act.id);
      expect(screen.getByText(words).parentElement?.textContent).toBe(words + (act.hint ?? ""));
    }
  });
});
