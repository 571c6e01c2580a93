import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { DryRun, ReplayFigures } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { DryRunPage } from "./dry-run";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});
vi.mock("../kit/charts", () => ({ colours: {}, Lines: () => null, Legend: () => null }));

const figures = (part: Partial<ReplayFigures> = {}): ReplayFigures => ({
  chats: 200,
  missed: 10,
  messages: 5,
  inTarget: 150,
  median: 12,
  p90: 50,
  mean: 20,
  ...part,
});
const columns = { happened: figures(), inForce: figures({ missed: 8 }), draft: figures({ missed: 31 }) };
const run = (part: Partial<DryRun> = {}): DryRun => ({
  chats: 205,
  all: columns,
  departments: [{ id: "b", name: "Bookings", ...columns }],
  hours: [{ hour: 9, ...columns }],
  operators: [
    {
      name: "Idris Vane",
      happened: { chats: 90, held: 1.2 },
      inForce: { chats: 80, held: 1.1 },
      draft: { chats: 70, held: 0.9 },
    },
  ],
  moved: [{ from: "Travel help", to: "Bookings", chats: 17 }],
  notes: [{ code: "field-unknown", value: "score" }],
  wrong: [],
  ...part,
});
const edit = (name: string, value: object) =>
  localStorage.setItem(`stoop.edit.maren.${name}`, JSON.stringify({ base: {}, value, at: 1 }));

let server: FakeServer;
const path = "POST /api/setup/dry-run";
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});
const start = () => screen.getByRole("button", { name: "Start" });

it("tries what is changed and not saved on its pages, and lets each be left out", async () => {
  edit("rules", { version: "3", rules: [] });
  edit("department.b", { id: "b", version: 2, name: "Bookings", capacity: 1 });
  edit("hours.h", {
    id: "h",
    version: 1,
    name: "Desk",
    zone: "UTC",
    weekly: [],
    exceptions: [],
    status: { open: true },
  });
  edit("person.p", { id: "p", version: 1, name: "Idris", languages: [], languagesTyped: "en, da" });
  edit("desk", { version: "1" });
  server.answers.set(path, fine(run()));
  const { user } = await draw(server, <DryRunPage />);
  expect(screen.getAllByRole("checkbox")).toHaveLength(4);
  await user.click(start());
  await screen.findByText("All chats of the period: 205");
  expect(server.sent[0]?.body).toMatchObject({
    rules: { version: "3", rules: [] },
    departments: [{ id: "b", capacity: 1 }],
    hours: [{ id: "h", version: 1, name: "Desk", zone: "UTC", weekly: [], exceptions: [] }],
    people: [{ id: "p", languages: ["en", "da"] }],
  });
  expect(JSON.stringify(server.sent[0]?.body)).not.toContain("status");
  screen.getByText("17 from Travel help to Bookings");
  screen.getByText(/Rules ask for score/);
  expect(screen.getAllByText("31 (16%)")).toHaveLength(2);

  await user.click(screen.getByRole("checkbox", { name: "The rules" }));
  screen.getByText(/This is of before/);
  await user.click(start());
  await waitFor(() => expect(server.sent).toHaveLength(2));
  expect(server.sent[1]?.body).not.toHaveProperty("rules");
  await waitFor(() => expect(screen.queryByText(/This is of before/)).toBeNull());
});

it("without a draft compares what is in force with what happened", async () => {
  const { draft, ...two } = columns;
  expect(draft).toBeDefined();
  server.answers.set(
    path,
    fine(run({ all: two, departments: [], hours: [], operators: [], moved: [], notes: [] })),
  );
  const { user } = await draw(server, <DryRunPage />);
  screen.getByText(/Nothing\. What is in force/);
  await user.click(start());
  await screen.findAllByText("in force, replayed");
  expect(screen.queryByText("draft, replayed")).toBeNull();
});

it("says what must be mended, that nothing came, and what went wrong", async () => {
  server.answers.set(
    path,
    fine(run({ wrong: [{ where: "rules", field: "rules.0", words: "Choose a day." }] })),
  );
  const { user } = await draw(server, <DryRunPage />);
  await user.click(start());
  await screen.findByText("Mend this first");
  server.answers.set(path, fine(run({ chats: 0 })));
  await user.click(start());
  await screen.findByText("No chat came in this period.");
  server.answers.set(
    path,
    refused("Something is wrong", {
      status: 422,
      code: "bad-fields",
      fields: [{ field: "to", words: "Choose between 1 and 92 days." }],
    }),
  );
  await user.click(start());
  await screen.findByText("Choose between 1 and 92 days.");
});
