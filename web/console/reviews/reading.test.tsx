import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ReviewView } from "../../shared/types";
import { draw, leave } from "../desk/drawn";
import { chat, FakeServer, fine, maren, refused, said } from "../desk/fake-desk";
import ReviewsPage from "./reviews";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const lead = { ...maren, role: "lead" as const };
const points = ["Understood", "Right", "Friendly"];

const review = (id: string, part: Partial<ReviewView> = {}): ReviewView => ({
  id,
  chat: chat(`chat-${id}`, { phase: "ended", ending: "answered", name: id, ownerName: "Idris Vane" }),
  operatorId: "idris",
  operatorName: "Idris Vane",
  scores: [],
  points: 0,
  of: 0,
  words: "",
  version: 1,
  ...part,
});

let server: FakeServer;
let list: ReviewView[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.desk.me = lead;
  list = [review("wren"), review("oskar")];
  server.answers.set("/api/review-draws/d", () => fine(list));
  server.answers.set("/api/review-form", fine({ version: "1", points }));
  for (const r of list) {
    server.answers.set(
      `/api/chats/${r.chat.id}`,
      fine({ chat: r.chat, events: [said(1, `Words of ${r.id}`)] }),
    );
    server.answers.set(`/api/chats/${r.chat.id}/path`, fine({ views: [] }));
  }
  server.answers.set("PUT /api/reviews/wren", (body) => {
    const sent = body as { send: boolean; scores: ReviewView["scores"]; words: string };
    const now = review("wren", {
      ...sent,
      version: 2,
      ...(sent.send ? { sentAt: "2026-09-17T14:00:00Z", by: "Maren Holt" } : {}),
    });
    list = [now, list[1] ?? review("oskar")];
    return fine(now);
  });
});

const page = (
  <Routes>
    <Route path="/reviews/:draw?/:id?" element={<ReviewsPage />} />
  </Routes>
);
const draws = () => draw(server, page, { me: lead, path: "/reviews/d" });
const group = (name: string) => screen.getByRole("radiogroup", { name });
const chosen = (name: string) =>
  within(group(name))
    .getAllByRole<HTMLInputElement>("radio")
    .findIndex((r) => r.checked);
const sent = () => server.got("PUT /api/reviews/wren");

describe("a lead reads what was drawn", () => {
  it("and scores it by keys, one point after the other", async () => {
    const { user } = await draws();
    await screen.findByText("Words of wren");
    await screen.findByRole("radiogroup", { name: "Right" });
    await waitFor(() => expect(group("Understood").contains(document.activeElement)).toBe(true));
    await user.keyboard("1");
    await user.keyboard("2");
    await user.keyboard("4");
    expect(points.map(chosen)).toEqual([0, 1, 3]);
    expect(document.activeElement?.tagName).toBe("TEXTAREA");
    await user.keyboard("1 to 4 are words here");
    expect(points.map(chosen)).toEqual([0, 1, 3]);
    await user.keyboard("{Control>}{Enter}{/Control}");
    await screen.findByText("Words of oskar"); // the next one that is not reviewed
    expect(sent()).toEqual([
      {
        version: 1,
        send: true,
        words: "1 to 4 are words here",
        scores: [
          { point: "Understood", score: "yes" },
          { point: "Right", score: "partly" },
          { point: "Friendly", score: "none" },
        ],
      },
    ]);
  });

  it("and finds what was typed again after reading another chat", async () => {
    const { user } = await draws();
    await screen.findByText("Words of wren");
    await user.type(await screen.findByLabelText("Words to Idris Vane"), "Half a thought");
    await user.click(screen.getByRole("link", { name: /oskar/ }));
    await screen.findByText("Words of oskar");
    expect((await screen.findByLabelText<HTMLTextAreaElement>("Words to Idris Vane")).value).toBe("");
    await user.click(screen.getByRole("link", { name: /wren/ }));
    await screen.findByText("Words of wren");
    expect((await screen.findByLabelText<HTMLTextAreaElement>("Words to Idris Vane")).value).toBe(
      "Half a thought",
    );
    expect(sent()).toEqual([]);
  });

  it("and keeps their words when a colleague was faster", async () => {
    server.answers.set("PUT /api/reviews/wren", () => {
      list = [review("wren", { version: 5, words: "Theirs", by: "Ansel Merrow" }), review("oskar")];
      return { status: 409, body: { code: "changed", title: "", detail: "", status: 409, retry: false } };
    });
    const { user } = await draws();
    await screen.findByText("Words of wren");
    await user.type(await screen.findByLabelText("Words to Idris Vane"), "Mine");
    await user.click(screen.getByRole("button", { name: "Send to Idris" }));
    await screen.findByText(/A colleague saved this in the meantime/);
    expect(screen.getByLabelText<HTMLTextAreaElement>("Words to Idris Vane").value).toBe("Mine");
    await user.click(screen.getByRole("button", { name: "Use theirs" }));
    expect(screen.getByLabelText<HTMLTextAreaElement>("Words to Idris Vane").value).toBe("Theirs");
  });
});

describe("an operator reads what was said of their chats", () => {
  it("whatever address they know, and answers", async () => {
    server.answers.set(
      "/api/reviews/mine",
      fine([review("wren", { words: "Short and kind.", by: "Maren Holt", sentAt: "2026-09-17T14:00:00Z" })]),
    );
    server.answers.set("POST /api/reviews/wren/answer", fine(undefined));
    server.desk.me = maren;
    const { user } = await draw(server, page, { path: "/reviews/d" });
    await screen.findByText("Short and kind.");
    expect(server.asked).not.toContain("/api/review-draws/d");
    expect(screen.getByRole("button", { name: "I have read it" })).toBeTruthy();
    await user.type(screen.getByLabelText("Answer to Maren Holt"), "Thank you.");
    await user.click(screen.getByRole("button", { name: "Answer" }));
    await waitFor(() =>
      expect(server.got("POST /api/reviews/wren/answer")).toEqual([{ words: "Thank you." }]),
    );
  });

  it("and finds the answer again that they were writing when it could not be sent, or they turned away", async () => {
    server.answers.set(
      "/api/reviews/mine",
      fine([review("wren", { words: "Short and kind.", by: "Maren Holt", sentAt: "2026-09-17T14:00:00Z" })]),
    );
    server.answers.set("POST /api/reviews/wren/answer", refused("The server is being restarted"));
    server.desk.me = maren;
    const first = await draw(server, page, { path: "/reviews/mine" });
    await first.user.type(await screen.findByLabelText("Answer to Maren Holt"), "Thank you.");
    await first.user.click(screen.getByRole("button", { name: "Answer" }));
    await screen.findByText(/The server is being restarted/);
    leave();
    await draw(server, page, { path: "/reviews/mine" });
    expect((await screen.findByLabelText<HTMLTextAreaElement>("Answer to Maren Holt")).value).toBe(
      "Thank you.",
    );
  });
});
