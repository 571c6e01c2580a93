import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { ChangeView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine } from "../desk/fake-desk";
import { ChangesPage } from "./changes";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const change = (part: Partial<ChangeView>): ChangeView => ({
  id: 7,
  at: "2026-11-28T10:00:00Z",
  by: "Ansel Merrow",
  kind: "widget",
  thingId: "w1",
  name: "Kelpwick Ferries",
  act: "changed",
  parts: [{ path: "design.title", before: "Ask us", after: "Ask the harbour" }],
  ...part,
});
const kinds = ["hours", "person", "widget"];

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/setup/people", fine([{ id: "ansel", name: "Ansel Merrow" }]));
});

it("tells who changed what, before and after, and never a password", async () => {
  server.answers.set(
    "/api/setup/changes",
    fine({
      kinds,
      more: false,
      changes: [
        change({}),
        change({
          id: 6,
          kind: "person",
          name: "Pia",
          by: "",
          parts: [{ path: "password", before: "…", after: "…" }],
        }),
        change({
          id: 5,
          kind: "hours",
          name: "Winter",
          act: "removed",
          parts: [{ path: "zone", before: "UTC" }],
        }),
      ],
    }),
  );
  await draw(server, <ChangesPage />);
  const rows = await screen.findAllByRole("listitem");
  expect(rows[0]?.textContent).toContain("Ansel Merrow");
  expect(within(rows[0] as HTMLElement).getByText("Ask us").tagName).toBe("DEL");
  expect(rows[1]?.textContent).toContain("by a command");
  expect(rows[1]?.textContent).toContain("set anew");
  expect(rows[2]?.textContent).toContain("removed");
  expect(rows[2]?.textContent).not.toContain("UTC");
});

it("goes further back, narrows by what, and exports what is shown", async () => {
  server.answers.set("/api/setup/changes", fine({ kinds, more: true, changes: [change({})] }));
  server.answers.set(
    "/api/setup/changes?before=7",
    fine({ kinds, more: false, changes: [change({ id: 3, name: "Freight" })] }),
  );
  server.answers.set("/api/setup/changes?kind=hours", fine({ kinds, more: false, changes: [] }));
  const { user } = await draw(server, <ChangesPage />);
  await user.click(await screen.findByRole("button", { name: "Show earlier changes" }));
  await screen.findByText("Freight");
  await user.click(screen.getByRole("combobox", { name: "What" }));
  await user.click(screen.getByRole("option", { name: "Hours" }));
  await screen.findByText("No change fits these filters.");
  await waitFor(() =>
    expect(screen.getByRole("link", { name: "Export as CSV" }).getAttribute("href")).toBe(
      "/api/setup/changes/export?kind=hours",
    ),
  );
});
