import { render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { fakeWidget } from "./fake-widget";
import { Panel } from "./panel";
import { PanelStore } from "./store";

// The code for finding answers does not come.
vi.mock("./help/before", () => {
  throw new Error("the network went");
});

it("asks the team where nothing to find answers with comes", async () => {
  localStorage.clear();
  const store = new PanelStore("ferries");
  store.state = { ...store.state, widget: fakeWidget() };
  render(<Panel store={store} />);
  const question = await screen.findByRole("textbox", { name: "Your question" });
  expect(question.closest("form")).not.toBeNull();
});
