import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { AnswerAgain, SaidAgain } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, maren, refused } from "../desk/fake-desk";
import { ArticlesPage } from "./articles";
import { CannedPage } from "./canned";
import { SaidAgainPage } from "./said-again";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const lead = { ...maren, role: "lead" as const };
const ramp: AnswerAgain = {
  text: "The ramp closes ten minutes before we sail.",
  others: ["The ramp shuts ten minutes before we sail."],
  chats: ["chat-1", "chat-2"],
  times: 23,
  operators: 4,
  rated: 9,
  good: 8,
  best: true,
  savedSeconds: 600,
};
const found: SaidAgain = {
  chats: 812,
  cut: false,
  stored: 0,
  answered: 0,
  answers: [ramp],
  questions: [
    { text: "May my kayak come as a passenger?", others: [], chats: ["chat-3"], times: 14, covered: 0 },
  ],
};
const nothing: SaidAgain = { ...found, answers: [], questions: [] };
const whole = "/api/said-again?days=90";

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/canned", fine([]));
  server.answers.set("/api/articles", fine([]));
  server.answers.set(whole, fine(found));
});

const library = () =>
  draw(
    server,
    <Routes>
      <Route path="/library/again" element={<SaidAgainPage />} />
      <Route path="/library/canned" element={<CannedPage />} />
      <Route path="/library/articles/new" element={<ArticlesPage />} />
    </Routes>,
    { me: lead, path: "/library/again" },
  );
const item = (words: string) => within(screen.getByText(words).closest("li") ?? document.body);
const begun = (kind: string) =>
  JSON.parse(localStorage.getItem(`stoop.edit.maren.${kind}.new`) ?? "{}") as { value?: object };

describe("what is said again", () => {
  it("says how often, by how many, and how it was rated", async () => {
    await library();
    await screen.findByText(ramp.text);
    expect(
      screen.getByText(
        "typed 23 times by 4 people · about 10 minutes of typing · 8 of 9 ratings good · the best-rated wording",
      ),
    ).toBeTruthy();
    expect(screen.getByText("812 chats looked through")).toBeTruthy();
  });

  it("becomes a canned response for all, to be given a shortcut and saved", async () => {
    const { user } = await library();
    await screen.findByText(ramp.text);
    await user.click(item(ramp.text).getByRole("button", { name: "Canned response" }));
    const words = await screen.findByRole("textbox", { name: "Answer" });
    expect(words).toHaveProperty("value", ramp.text);
    expect(begun("canned").value).toMatchObject({ text: ramp.text, scope: "common", shortcut: "" });
    expect(server.got("PUT /api/canned")).toEqual([]);
  });

  it("becomes an article under the question that was asked", async () => {
    const { user } = await library();
    const question = "May my kayak come as a passenger?";
    await screen.findByText(question);
    await user.click(item(question).getByRole("button", { name: "Article" }));
    await waitFor(() => expect(begun("article").value).toMatchObject({ title: question }));
  });

  it("leaves alone what is being written already, and says so", async () => {
    const mine = { base: {}, value: { text: "Half written", scope: "own", shortcut: "half" }, at: 1 };
    localStorage.setItem("stoop.edit.maren.canned.new", JSON.stringify(mine));
    const { user } = await library();
    await screen.findByText(ramp.text);
    await user.click(item(ramp.text).getByRole("button", { name: "Canned response" }));
    await screen.findByText(/being written there already/, {}, { timeout: 15_000 }); // what says it is loaded first
    expect(begun("canned").value).toMatchObject({ text: "Half written", shortcut: "half" });
  });

  it("is said to be nothing when it is nothing, and what is stored already is counted", async () => {
    server.answers.set(whole, fine({ ...nothing, stored: 3, answered: 1, cut: true }));
    await library();
    await screen.findByText("Nothing that is typed often is missing from the canned responses.");
    expect(
      screen.getByText(
        "812 chats looked through · only the latest ones · 3 more are canned responses already",
      ),
    ).toBeTruthy();
    expect(screen.getByText("Nothing that is asked often is without an answer.")).toBeTruthy();
  });

  it("is asked for again after a failure", async () => {
    server.answers.set(whole, refused("Looking took too long"));
    const { user } = await library();
    await screen.findByText(/Looking took too long/);
    server.answers.set(whole, fine(found));
    await user.click(screen.getByRole("button", { name: "Try again" }));
    await screen.findByText(ramp.text);
  });
});
