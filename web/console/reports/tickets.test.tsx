import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { TicketFigures, TicketReport } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine } from "../desk/fake-desk";
import Tickets from "./tickets";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const figures = (change: Partial<TicketFigures> = {}): TicketFigures => ({
  opened: 0,
  done: 0,
  answers: 0,
  inTime: 0,
  ...change,
});

const report = (change: Partial<TicketReport> = {}): TicketReport => ({
  from: "2026-11-01",
  to: "2026-11-28",
  all: figures({ opened: 12, done: 9, answers: 8, inTime: 6, first: 5400, finished: 190_800 }),
  before: figures({ opened: 10 }),
  now: { unfinished: 4, ours: 3, late: 1, nobodys: 2 },
  days: [
    figures({ name: "2026-11-27", opened: 3, done: 1 }),
    figures({ name: "2026-11-28", opened: 2, done: 2 }),
  ],
  departments: [figures({ id: "help", name: "Travel help", opened: 12, done: 9, answers: 8, inTime: 6 })],
  owners: [figures({ id: "", opened: 5 })],
  ...change,
});

let server: FakeServer;
let asked: string[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  asked = [];
});

function answering(r: TicketReport) {
  const fetch = server.fetch;
  server.fetch = async (request: Request) => {
    const url = new URL(request.url);
    if (url.pathname !== "/api/tickets/report") return await fetch(request);
    asked.push(url.search);
    const { status, body } = fine(r);
    return new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
  };
}

describe("what tickets add up to", () => {
  it("is said in figures that a lead can check, and leads to those not done", async () => {
    answering(report());
    await draw(server, <Tickets />, { path: "/reports/tickets?department=help" });
    await screen.findByText("6 of 8 answers to customers who waited");
    expect(screen.getByText(/^75\s?%$/)).toBeDefined();
    expect(screen.getByText("1 h 30 min")).toBeDefined();
    expect(screen.getByText("2 days 5 h")).toBeDefined();
    expect(screen.getByText("1 late, 2 without an owner")).toBeDefined();
    expect(screen.getByRole("link", { name: /Tickets that are not done/ }).getAttribute("href")).toBe(
      "/tickets?department=help",
    );
    const file = screen.getByRole("link", { name: "Table (CSV)" }).getAttribute("href") ?? "";
    expect(file).toContain("department=help");
    expect(asked[0]).toContain("department=help");
    const owners = screen.getByRole("heading", { name: "By owner" }).closest("section") as HTMLElement;
    expect(within(owners).getByText("nobody")).toBeDefined();
  });

  it("says what is not known where nobody was answered, instead of nought", async () => {
    answering(report({ all: figures({ opened: 1 }), departments: [], owners: [] }));
    await draw(server, <Tickets />, { path: "/reports/tickets" });
    await screen.findByText("nobody was answered");
    expect(screen.getAllByText("–").length).toBeGreaterThanOrEqual(3);
    expect(screen.getAllByText("None in this time.")).toHaveLength(2);
  });
});
