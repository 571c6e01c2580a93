import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ChatView, FloorDepartment, FloorMember } from "../../shared/types";
import { draw } from "../desk/drawn";
import { chat, FakeServer, maren } from "../desk/fake-desk";
import { Hall } from "./hall";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const lead = { ...maren, role: "lead" as const };

const member = (name: string, part: Partial<FloorMember> = {}): FloorMember => ({
  id: name,
  name,
  state: "available",
  backup: false,
  load: 1,
  offered: 0,
  capacity: 4,
  ended: 0,
  replies: 0,
  onTime: 0,
  ...part,
});

const department: FloorDepartment = {
  id: "help",
  name: "Travel help",
  state: "open",
  handOut: "offer",
  helpedBy: [],
  hoursOpen: true,
  estimateSeconds: 0,
  members: [],
  waiting: 0,
  load: 3,
  slots: 8,
  messages: 0,
  targetSeconds: 60,
  soonSeconds: 40,
  today: 0,
  missed: 0,
  decided: 0,
  within: 0,
  rated: 0,
  rating: 0,
};

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

/** Draws a department on the Floor, with the chats that the Desk knows. */
const hall = (part: Partial<FloorDepartment>, chats: ChatView[] = []) => {
  server.desk = { ...server.desk, me: lead, chats };
  return draw(server, <Hall department={{ ...department, ...part }} />, { me: lead, path: "/floor" });
};
const ago = (seconds: number) => new Date(Date.now() - seconds * 1000).toISOString();
const rows = (list: string) =>
  within(screen.getByRole("list", { name: list }))
    .getAllByRole("listitem")
    .map((row) => row.textContent);
const figure = (head: string) => screen.getByText(head).nextElementSibling?.textContent;

describe("who is there", () => {
  it("stands in the order in which they can help: members before backups, available before away", async () => {
    await hall({
      members: [
        member("Wilma", { state: "offline" }),
        member("Ada", { backup: true }),
        member("Tove", { state: "away", awayWhy: "passes" }),
        member("Idris"),
        member("Bo"),
      ],
    });
    const names = rows("Members of Travel help").map((row) => /^[A-Z][a-z]+/.exec(row ?? "")?.[0]);
    expect(names).toEqual(["Bo", "Idris", "Tove", "Wilma", "Ada"]);
    expect(screen.getByText("away, missed offers")).toBeTruthy();
  });

  it("with what they did today, and nothing said of those who did nothing", async () => {
    await hall({ members: [member("Bo", { ended: 9, replies: 40, onTime: 38 }), member("Idris")] });
    const [bo, idris] = rows("Members of Travel help");
    expect(bo).toContain("9 ended today, 38 of 40 replies in time");
    expect(idris).not.toContain("today");
  });
});

describe("who waits", () => {
  it("stands with the longest wait first, and those handed on last, without a wait that is not theirs", async () => {
    await hall({ waiting: 0 }, [
      chat("Oskar", { since: ago(25) }),
      chat("Wren", { since: ago(95) }),
      chat("Pia", {
        phase: "active",
        since: ago(4000),
        ownerId: "idris",
        ownerName: "Idris Vane",
        handingDepartmentId: "help",
        handingToName: "Travel help",
      }),
      chat("Jon", { phase: "active", ownerId: "idris", ownerName: "Idris Vane", since: ago(300) }),
      chat("Letter", { message: true, since: ago(9000) }),
      chat("Elsewhere", { departmentId: "freight", since: ago(9000) }),
    ]);
    const [wren, oskar, pia, ...others] = rows("Waiting for Travel help");
    expect(wren).toMatch(/^Wren1:3\dTake$/);
    expect(oskar).toMatch(/^Oskar0:2\dTake$/);
    expect(pia).toBe("Piahanded on by IdrisTake");
    expect(others).toEqual([]);
    // Counted as listed: what the server counts comes later.
    expect(figure("Waiting")).toBe("3");
    expect(figure("Longest wait")).toMatch(/^1:3\d$/);
  });

  it("is cut after four, and says how many more there are", async () => {
    await hall(
      { waiting: 7, longestSince: ago(70) },
      [..."abcdefg"].map((id, i) => chat(id, { since: ago(70 - i) })),
    );
    expect(rows("Waiting for Travel help")).toHaveLength(5);
    expect(screen.getByText("and 3 more")).toBeTruthy();
  });

  it("is taken with one click, on the Desk, which says it when a colleague was faster", async () => {
    server.answers.set("POST /api/chats/Wren/take?anyway=false", {
      status: 409,
      body: { code: "chat-taken", title: "Taken", detail: "", status: 409, retry: false, ownerId: "idris" },
    });
    server.desk = { ...server.desk, me: lead, chats: [chat("Wren", { since: ago(9) })] };
    const { user } = await draw(
      server,
      <Routes>
        <Route path="/floor" element={<Hall department={{ ...department, waiting: 1 }} />} />
        <Route path="/desk" element={<p>The Desk</p>} />
      </Routes>,
      { me: lead, path: "/floor" },
    );
    await user.click(screen.getByRole("button", { name: "Take Wren" }));
    await screen.findByText("The Desk");
    await screen.findByText(
      /Idris Vane took this chat a moment before you/,
      {},
      { timeout: 15_000 }, // what says it is loaded first
    );
  });

  it("is not to be taken while a colleague is being asked", async () => {
    await hall({ waiting: 1, longestSince: ago(9) }, [
      chat("Wren", {
        since: ago(9),
        offeredTo: "idris",
        offeredToName: "Idris Vane",
        offeredUntil: ago(-20),
      }),
    ]);
    await waitFor(() => expect(screen.getByText("Asking Idris")).toBeTruthy());
    expect(screen.queryByRole("button", { name: "Take Wren" })).toBeNull();
  });
});

describe("how the day went", () => {
  it("is told of what is decided, not of those who may still be taken in time", async () => {
    await hall({ today: 12, decided: 10, within: 9, missed: 1 });
    expect(figure("Taken within 1:00")).toBe("9 of 10");
    expect(figure("Today")).toBe("12, 1 missed");
  });

  it("is not told as nought before there was anything", async () => {
    await hall({});
    expect(figure("Taken within 1:00")).toBe("none yet");
    expect(figure("Longest wait")).toBe("none");
  });

  it("says what becomes of somebody who writes now", async () => {
    await hall({ state: "closed", hoursOpen: true, helpedBy: ["Bookings"] });
    expect(figure("New visitors right now")).toBe("go to Bookings");
    expect(screen.getByText("Nobody in")).toBeTruthy();
  });
});
