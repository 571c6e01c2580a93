import { screen } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { ReportRow } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer } from "../desk/fake-desk";
import { Heat } from "./heat";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const row = (key: string, chats: number, missed = 0) => ({ key, chats, missed }) as ReportRow;

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const at = { path: "/reports?from=2026-11-01&to=2026-11-28&department=d1" };
const cell = (name: RegExp) => screen.getByTitle(name);

it("leads from each hour to the chats behind it, narrowed as the report is", async () => {
  await draw(server, <Heat rows={[row("1 08", 3, 1), row("7 20", 12)]} />, at);
  expect(cell(/^Sunday, 20:00 to 21:00: 12 chats, 0 missed/).getAttribute("href")).toBe(
    "/transcripts?from=2026-11-01&to=2026-11-28&department=d1&weekday=7&hour=20",
  );
  expect(cell(/^Monday, 8:00 to 9:00: 3 chats, 1 missed/).textContent).toBe("3");
});

it("shows the hours in which chats come, from the first to the last, and what is darkest has most", async () => {
  await draw(server, <Heat rows={[row("1 08", 1), row("3 10", 12), row("7 12", 6)]} />, at);
  expect(screen.getAllByRole("columnheader").map((h) => h.textContent)).toEqual([
    "Day",
    "8",
    "9",
    "10",
    "11",
    "12",
  ]);
  const step = (name: RegExp) => Number(/step-(\d)/.exec(cell(name).parentElement?.className ?? "")?.[1]);
  const [none, few, middle, most] = [/^Monday, 9:/, /^Monday, 8:/, /^Sunday, 12:/, /^Wednesday, 10:/].map(
    step,
  );
  expect(none).toBe(1);
  expect(most).toBe(6);
  expect(few).toBeGreaterThan(none ?? 9);
  expect(middle).toBeGreaterThan(few ?? 9);
  expect(most).toBeGreaterThan(middle ?? 9);
});

it("is there with an ordinary day's hours when nothing came", async () => {
  await draw(server, <Heat rows={[]} />, at);
  expect(screen.getAllByRole("columnheader").at(1)?.textContent).toBe("8");
  expect(screen.getAllByRole("columnheader").at(-1)?.textContent).toBe("18");
});

it("is one stop of the keyboard, within which arrows go from hour to hour", async () => {
  const { user } = await draw(server, <Heat rows={[row("1 08", 3), row("2 10", 4)]} />, at);
  await user.tab();
  expect(document.activeElement).toBe(cell(/^Monday, 8:/));
  await user.keyboard("{ArrowRight}{ArrowDown}");
  expect(document.activeElement).toBe(cell(/^Tuesday, 9:/));
  await user.keyboard("{ArrowLeft}{ArrowLeft}");
  expect(document.activeElement).toBe(cell(/^Tuesday, 8:/));
  await user.tab();
  expect(document.activeElement).toBe(document.body);
});
