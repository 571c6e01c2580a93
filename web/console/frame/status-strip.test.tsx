import { act, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { chat, FakeServer, fine, idris, maren } from "../desk/fake-desk";
import { StatusStrip } from "./status-strip";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const figures = { todayWithin: 7, todayDecided: 9, targetSeconds: 60, onSite: 12 };

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/figures", fine(figures));
});

const strip = () => screen.getByRole("contentinfo", { name: "The team now" }).textContent;
const waitingSince = (id: string, ago: number) => {
  const since = new Date(Date.now() - ago * 1000).toISOString();
  return chat(id, { startedAt: since, arrived: since, since });
};

describe("the strip at the foot", () => {
  it("counts who waits, and how long the first of them has", async () => {
    server.desk.chats = [
      waitingSince("first", 125),
      waitingSince("second", 20),
      chat("mine", { phase: "active", ownerId: "maren" }),
      chat("theirs", { phase: "active", ownerId: "idris" }),
    ];
    await draw(server, <StatusStrip />);
    expect(strip()).toMatch(/Queue 2/);
    expect(strip()).toMatch(/longest wait 2:0[4-9]/);
  });

  it("says that nobody waits, and what was taken in time", async () => {
    await draw(server, <StatusStrip />);
    expect(strip()).toMatch(/Queue 0/);
    expect(strip()).toMatch(/longest wait none/);
    await waitFor(() => expect(strip()).toMatch(/taken within 1:00 today 7 of 9/));
    expect(strip()).toMatch(/on the site 12/);
  });

  it("says one target only where all departments have the same", async () => {
    server.answers.set("/api/figures", fine({ ...figures, targetSeconds: 0, todayDecided: 0 }));
    await draw(server, <StatusStrip />);
    await waitFor(() => expect(strip()).toMatch(/taken on target today none yet/));
  });

  it("counts the colleagues who take chats, as they come and go", async () => {
    const { live } = await draw(server, <StatusStrip />);
    expect(strip()).toMatch(/2 of 2 operators available/);
    act(() =>
      live.arrives({ type: "team", operators: [maren, { ...idris, state: "away", available: false }] }),
    );
    await waitFor(() => expect(strip()).toMatch(/1 of 2 operators available/));
  });

  it("asks anew when somebody begins to wait, and says when the connection is lost", async () => {
    const { live } = await draw(server, <StatusStrip />);
    const asked = () => server.asked.filter((path) => path === "/api/figures").length;
    await waitFor(() => expect(asked()).toBeGreaterThan(0));
    const before = asked();
    act(() => live.arrives({ type: "chat", chat: waitingSince("new", 1), events: [] }));
    await waitFor(() => expect(asked()).toBeGreaterThan(before));
    expect(strip()).toMatch(/Queue 1/);
    expect(strip()).toMatch(/Live/);
    act(() => live.down());
    await waitFor(() => expect(strip()).toMatch(/No connection. Trying again; what you write is kept./));
  });
});
