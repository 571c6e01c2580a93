import { render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import type { WidgetView } from "../../shared/types";
import { Panel } from "./panel";
import { PanelStore } from "./store";

// The code for finding answers does not come.
vi.mock("./help/before", () => {
  throw new Error("the network went");
});

it("asks the team where nothing to find answers with comes", async () => {
  localStorage.clear();
  const store = new PanelStore("ferries");
  const widget = {
    key: "ferries",
    title: "Ask the ferry desk",
    greeting: "Good morning",
    language: "en",
    words: {},
    form: [],
    help: true,
    looks: { links: [] },
    now: { type: "state", state: "open", in: ["Maren"] },
  };
  store.state = { ...store.state, widget: widget as unknown as WidgetView };
  render(<Panel store={store} />);
  const question = await screen.findByRole("textbox", { name: "Your question" });
  expect(question.closest("form")).not.toBeNull();
});
