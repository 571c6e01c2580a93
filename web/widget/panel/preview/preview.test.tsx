import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { fakeWidget } from "../fake-widget";
import { Panel } from "../panel";
import * as speaking from "../speaks";
import type { WidgetView } from "../../../shared/types";
import type { Look, Scene } from "./look";
import type { PanelStore } from "../store";
import { PreviewStore } from "./store";

// Tests read what stands in the source.
vi.mock("../parts-words", () => ({ withWords: (part: unknown) => part }));

const sample = {
  operator: "Maren Holt",
  visitor: "Wren",
  question: "Is there room for a minibus?",
  answer: "There is, on the 14:10.",
  thanks: "Good.",
  invitation: "May I help?",
  article: "It travels free.",
};
const widget = fakeWidget({ key: "preview", closedGreeting: "We answer tomorrow" });
const look = (scene: Scene, change: Partial<WidgetView> = {}): Look => ({
  widget: { ...widget, ...change },
  scene,
  sample,
  faqs: [
    { id: "a1", title: "Can I bring my bicycle?" },
    { id: "a2", title: "Is there something to eat?" },
  ],
  search: true,
});

/** Plays the editor around the preview. */
const says = (stoopPreview: Look, origin = location.origin) =>
  act(async () => {
    dispatchEvent(new MessageEvent("message", { data: { stoopPreview }, origin }));
  });

let store: PreviewStore;
beforeEach(async () => {
  localStorage.clear();
  vi.stubGlobal("fetch", () => {
    throw new Error("a preview asks the server for nothing");
  });
  store = new PreviewStore("preview");
  await store.begin();
  render(<Panel store={store} />);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const heading = () => screen.getByRole("heading", { level: 1 }).textContent;

describe("the preview of a panel", () => {
  it("shows each scene as the panel draws it", async () => {
    await says(look("form"));
    await screen.findByRole("textbox", { name: /question/i });
    await says(look("chat"));
    await screen.findByText("There is, on the 14:10.");
    expect(heading()).toBe("Maren Holt");
    await says(look("waiting"));
    await screen.findByText("Is there room for a minibus?");
    expect(screen.queryByText("There is, on the 14:10.")).toBeNull();
    await says(look("ended"));
    await screen.findByRole("button", { name: "Start another chat" });
  });

  it("finds the FAQs by their titles, and reads them, without a server", async () => {
    await says(look("help"));
    await screen.findByText("Can I bring my bicycle?");
    expect(await store.answers?.find("EAT")).toEqual([{ id: "a2", title: "Is there something to eat?" }]);
    expect((await store.answers?.read("a1"))?.html).toContain("It travels free.");
  });

  it("sends nothing that is typed into it", async () => {
    await says(look("form"));
    const panel: PanelStore = store;
    panel.open({ name: "", email: "", text: "Hello" }, false);
    panel.say("Hello");
    panel.connect();
    expect(store.state.unsent).toEqual([]);
    expect(store.state.chat).toBeUndefined();
  });

  it("listens to no other page than ours", async () => {
    await says(look("chat"));
    await screen.findByText("There is, on the 14:10.");
    await says(look("form", { title: "Give me your password" }), "https://elsewhere.example");
    expect(heading()).toBe("Maren Holt");
  });

  it("shows the newest look though the words of an older one come later", async () => {
    let late: () => void = () => undefined;
    vi.spyOn(speaking, "speaksAs")
      .mockReturnValueOnce(new Promise((done) => (late = () => done())))
      .mockResolvedValueOnce();
    await says(look("form", { title: "Older" }));
    await says(look("form", { title: "Newer" }));
    await waitFor(() => expect(heading()).toBe("Newer"));
    await act(async () => late());
    expect(heading()).toBe("Newer");
  });

  it("shows the look though the words of its language do not come", async () => {
    vi.spyOn(speaking, "speaksAs").mockRejectedValue(new Error("away"));
    await says(look("form", { title: "Spørg os", language: "da" }));
    await waitFor(() => expect(heading()).toBe("Spørg os"));
  });
});
