import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { AlertView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, maren } from "../desk/fake-desk";
import AlertBand from "./alert-band";
import { play } from "../notices/sounds";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});
vi.mock("../notices/sounds", async (original) => ({
  ...(await original<typeof import("../notices/sounds")>()),
  play: vi.fn(),
  unlockSound: vi.fn(),
}));

const lead = { ...maren, role: "lead" as const };

const alert = (id: string, part: Partial<AlertView> = {}): AlertView => ({
  id,
  kind: "queue",
  departmentId: "help",
  departmentName: "Travel help",
  raisedAt: "2026-09-17T13:33:00Z",
  worst: 6,
  over: 5,
  ...part,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  vi.mocked(play).mockClear();
  server = new FakeServer();
  server.answers.set("/api/alerts", fine([]));
});

const rings = () => vi.mocked(play).mock.calls.length;
const band = () => screen.queryByRole("alert", { name: "Alerts" });

describe("a lead is called", () => {
  it("by sight for what was there before, and by sound for what is new", async () => {
    server.answers.set("/api/alerts", fine([alert("old")]));
    const { live } = await draw(server, <AlertBand />, { me: lead });
    await screen.findByText(/5 or more are waiting/);
    expect(rings()).toBe(0);
    server.answers.set(
      "/api/alerts",
      fine([alert("new", { departmentName: "Freight", kind: "wait", over: 60 }), alert("old")]),
    );
    live.arrives({ type: "alerts" });
    await screen.findByText(/somebody has waited longer than 1:00/);
    expect(screen.getByText(/and 1 more/)).toBeTruthy();
    expect(rings()).toBe(1);
    live.arrives({ type: "alerts" });
    await waitFor(() => expect(server.asked.filter((a) => a === "/api/alerts").length).toBeGreaterThan(2));
    expect(rings()).toBe(1);
  });

  it("until somebody sees to it", async () => {
    server.answers.set("/api/alerts", fine([alert("a")]));
    server.answers.set("PUT /api/alerts/a/taken", () => {
      server.answers.set("/api/alerts", fine([alert("a", { takenBy: "Maren Holt" })]));
      return fine(undefined);
    });
    const { user } = await draw(server, <AlertBand />, { me: lead });
    await user.click(await screen.findByRole("button", { name: "I’m on it" }));
    await waitFor(() => expect(band()).toBeNull());
    expect(server.got("PUT /api/alerts/a/taken")).toHaveLength(1);
  });

  it("and is told when a colleague was faster", async () => {
    server.answers.set("/api/alerts", fine([alert("a")]));
    server.answers.set("PUT /api/alerts/a/taken", () => {
      server.answers.set("/api/alerts", fine([alert("a", { takenBy: "Idris Vane" })]));
      return {
        status: 409,
        body: {
          code: "seen-to",
          title: "A colleague is already on it",
          detail: "",
          status: 409,
          retry: false,
        },
      };
    });
    const { user } = await draw(server, <AlertBand />, { me: lead });
    await user.click(await screen.findByRole("button", { name: "I’m on it" }));
    await screen.findByText(/A colleague is already on it/, {}, { timeout: 15_000 }); // what says it is loaded first
    await waitFor(() => expect(band()).toBeNull());
  });

  it("not again for what they put aside, but for the next", async () => {
    server.answers.set("/api/alerts", fine([alert("a")]));
    const { user, live } = await draw(server, <AlertBand />, { me: lead });
    await user.click(await screen.findByRole("button", { name: "Put aside, for me alone" }));
    expect(band()).toBeNull();
    server.answers.set("/api/alerts", fine([alert("b", { departmentName: "Bookings" }), alert("a")]));
    live.arrives({ type: "alerts" });
    await screen.findByText("Bookings");
    expect(screen.queryByText(/and 1 more/)).toBeNull();
  });

  it("not on the Floor, where all of them stand", async () => {
    server.answers.set("/api/alerts", fine([alert("a")]));
    await draw(server, <AlertBand />, { me: lead, path: "/floor" });
    await waitFor(() => expect(server.asked).toContain("/api/alerts"));
    expect(band()).toBeNull();
  });
});
