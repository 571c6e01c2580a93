import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { Flow, FlowLook, FlowTurn, FlowView } from "../../../shared/types";
import { draw } from "../../desk/drawn";
import { FakeServer, fine, refused } from "../../desk/fake-desk";
import { HelperPage } from "./page";
import { newStep } from "./steps";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const empty: Flow = { name: "First answers", languages: ["en"], steps: [], texts: {} };
const flow: Flow = {
  ...empty,
  steps: [
    { ...newStep(empty, "say"), id: "greet", text: "Hello", next: "over" },
    { ...newStep(empty, "hand-over"), id: "over", text: "Somebody comes" },
  ],
};
const view = (change: Partial<FlowView> = {}): FlowView => ({
  id: "f1",
  flow,
  draftVersion: 3,
  by: "Ansel",
  at: "2026-09-17T13:00:00Z",
  liveVersion: 2,
  differs: false,
  widgets: ["Ferries"],
  ...change,
});
const look = (change: Partial<FlowLook> = {}): FlowLook => ({
  problems: [],
  texts: [],
  drawing: {
    width: 200,
    height: 200,
    boxes: [
      { step: "greet", x: 20, y: 20, lost: false },
      { step: "over", x: 20, y: 100, lost: false },
    ],
    lines: [
      {
        from: "greet",
        to: "over",
        label: "",
        back: false,
        corners: [
          { x: 100, y: 66 },
          { x: 100, y: 100 },
        ],
      },
    ],
  },
  ...change,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      disconnect() {}
    },
  );
  Element.prototype.scrollIntoView = () => undefined;
  server = new FakeServer();
  server.answers.set("GET /api/setup/flows", () => fine([view()]));
  server.answers.set("GET /api/setup/departments", () => fine([]));
  server.answers.set("GET /api/setup/widget-choices", () =>
    fine({ languages: ["en", "de"], texts: [], icons: {}, variables: [], inChat: [] }),
  );
  server.answers.set("POST /api/setup/flows/look", () => fine(look()));
});

it("shows a flow as steps beside their drawing; pressing a box opens its step", async () => {
  const { user } = await draw(server, <HelperPage />);
  await screen.findByText("Checked: nothing is wrong.");
  expect(screen.getByText("version 2 is live")).toBeTruthy();
  const drawing = screen.getByRole("group", { name: "Drawing of the flow" });
  await user.click(within(drawing).getByRole("button", { name: /2 · Hand over/ }));
  expect(screen.getByRole("textbox", { name: "What it says" })).toHaveProperty("value", "Somebody comes");
});

it("does not publish what the check finds wrong, and leads to it", async () => {
  server.answers.set("POST /api/setup/flows/look", () =>
    fine(
      look({
        problems: [{ step: "over", field: "text", words: "Write what the helper says.", warning: false }],
      }),
    ),
  );
  const { user } = await draw(server, <HelperPage />);
  await screen.findByText(/One thing must be mended/);
  await user.click(screen.getByRole("button", { name: /^Hand over/ }));
  await user.clear(screen.getByRole("textbox", { name: "What it says" }));
  expect(screen.getByRole("button", { name: "Publish" })).toHaveProperty("disabled", true);
  await user.click(screen.getByRole("button", { name: "Step 2" }));
  expect(screen.getAllByText("Write what the helper says.").length).toBe(2);
});

it("publishes what was typed with the version that was read, and keeps it when a colleague was faster", async () => {
  const sent: unknown[] = [];
  server.answers.set("POST /api/setup/flows/f1/publish", (body) => {
    sent.push(body);
    return refused("changed", { status: 409, code: "changed" });
  });
  const { user } = await draw(server, <HelperPage />);
  await screen.findByText("Checked: nothing is wrong.");
  await user.click(screen.getByRole("button", { name: /^Say begins/ }));
  const says = screen.getByRole("textbox", { name: "What it says" });
  await user.type(says, " there");
  await user.click(screen.getByRole("button", { name: "Publish" }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ draftVersion: 3, flow: { steps: [{ text: "Hello there" }, {}] } });
  expect(screen.getByRole("textbox", { name: "What it says" })).toHaveProperty("value", "Hello there");
});

it("a way may lead to a step that is made with it", async () => {
  const { user } = await draw(server, <HelperPage />);
  await screen.findByText("Checked: nothing is wrong.");
  await user.click(screen.getByRole("button", { name: /^Say begins/ }));
  await user.click(screen.getByRole("combobox", { name: "Then" }));
  await user.click(screen.getByRole("option", { name: "+ New step: Ask" }));
  expect(screen.getByRole("combobox", { name: "The answer is" })).toBeTruthy();
  const steps = screen.getAllByRole("listitem").filter((li) => li.id.startsWith("step-"));
  expect(steps.map((li) => li.id)).toEqual(["step-greet", "step-ask-1", "step-over"]);
});

it("is tried in place, and an answer that comes after it was begun anew belongs to no trial", async () => {
  const turn: FlowTurn = {
    memory: { step: "greet", tries: 0, question: "", answered: false },
    lines: [{ text: "Dogs travel free.", choices: ["Yes", "No"], article: "Dogs", confidence: 0.87 }],
    answers: { topic: "dogs" },
    tags: [],
    then: "",
    path: ["greet"],
  };
  let late: (() => void) | undefined;
  const asked: unknown[] = [];
  server.answers.set("POST /api/setup/flows/try", (body) => {
    asked.push(body);
    return fine(turn);
  });
  const { user } = await draw(server, <HelperPage />);
  await screen.findByText("Checked: nothing is wrong.");
  await user.click(screen.getByRole("button", { name: "Try it" }));
  await user.type(screen.getByRole("textbox", { name: "The visitor says" }), "May my dog come?{Enter}");
  expect(await screen.findByText("From “Dogs”, 87 % sure")).toBeTruthy();
  const held = new Promise<void>((done) => (late = done));
  server.hold.set("POST /api/setup/flows/try", held);
  await user.click(screen.getByRole("button", { name: "No" }));
  await waitFor(() => expect(server.sent.filter((s) => s.what.endsWith("/try"))).toHaveLength(2));
  const second = server.got("POST /api/setup/flows/try")[1];
  expect(second).toMatchObject({ words: "No", memory: { step: "greet" }, answers: { topic: "dogs" } });
  await user.click(screen.getByRole("button", { name: "Begin anew" }));
  late?.();
  await waitFor(() => expect(screen.queryByText("Dogs travel free.")).toBeNull());
});
