import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { keepJSON } from "../../shared/storage";
import { startKey } from "./drafts";
import { fakeWidget } from "./fake-widget";
import { Panel } from "./panel";
import { PanelStore } from "./store";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

// Tests read what stands in the source.
vi.mock("./parts-words", () => ({ withWords: (part: unknown) => part }));

const widget = fakeWidget();

function panel(): PanelStore {
  const store = new PanelStore("ferries");
  store.answers = {
    help: () => Promise.resolve({ search: true, faqs: [{ id: "a1", title: "Can I bring my bicycle?" }] }),
    find: () => Promise.resolve([]),
    read: () => Promise.reject(new Error("not asked for")),
    helped: () => Promise.resolve(),
  };
  store.state = { ...store.state, widget };
  render(<Panel store={store} />);
  return store;
}

const question = () => screen.getByRole("textbox", { name: "Your question" });

beforeEach(() => {
  localStorage.clear();
  vi.spyOn(document, "hasFocus").mockReturnValue(true);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

describe("before a chat", () => {
  it("answers come first, and a person is one press away, with the question under one's hands", async () => {
    panel();
    await screen.findByText("Can I bring my bicycle?");
    expect(screen.queryByRole("textbox", { name: "Your question" })).toBeNull();
    const search = screen.getByRole("searchbox");
    fireEvent.input(search, { target: { value: "bicycle on Friday" } });
    search.focus();
    const ask = screen.getByRole("button", { name: "Ask our team" });
    ask.focus();
    fireEvent.click(ask);
    await waitFor(() => expect(document.activeElement).toBe(question()));
    expect(question()).toHaveProperty("value", "bicycle on Friday");
    const back = screen.getByRole("button", { name: "Find an answer" });
    back.focus();
    fireEvent.click(back);
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole("searchbox")));
  });

  it("whoever had begun to write goes on writing", async () => {
    keepJSON(startKey("ferries"), { name: "", email: "", text: "My lorry is" });
    panel();
    expect(question()).toHaveProperty("value", "My lorry is");
    expect(screen.queryByText("Can I bring my bicycle?")).toBeNull();
  });

  it("an invitation leads to its answer, past what could be found", async () => {
    const store = panel();
    await screen.findByText("Can I bring my bicycle?");
    act(() => store.onInvited({ id: "i1", text: "May I help with the lorry deck?", name: "Maren Holt" }));
    await screen.findByText("May I help with the lorry deck?");
    expect(screen.getByRole("textbox", { name: /^Write to Maren/ })).toBeTruthy();
  });
});
