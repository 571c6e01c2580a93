import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { BanView, DeskSettings, HoursSettings, PersonSettings } from "../../shared/types";
import { draw, leave } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { BansPage } from "./bans";
import { DeskSettingsPage } from "./desk-settings";
import { HoursPage } from "./hours";
import { TeamPage } from "./team";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});
const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("bans", () => {
  const ban = (change: Partial<BanView>): BanView => ({
    id: "b1",
    network: "",
    name: "",
    reason: "Insults",
    by: "Maren Holt",
    createdAt: "2026-09-17T10:00:00Z",
    holds: true,
    ...change,
  });

  it("name who, why, by whom and until when, and are lifted by one press", async () => {
    server.answers.set(
      "/api/bans",
      fine([
        ban({ name: "Wren", until: "2999-01-01T10:00:00Z" }),
        ban({ id: "b2", network: "192.0.2.0/24" }),
        ban({ id: "b3", name: "Oskar", holds: false, liftedAt: "2026-09-17T11:00:00Z" }),
      ]),
    );
    server.answers.set("DELETE /api/bans/b2", fine({}));
    const { user } = await draw(server, <BansPage />);
    const row = (who: string) => screen.getByRole("row", { name: new RegExp(`^${who}`) });
    await screen.findByText("192.0.2.0/24");
    expect(row("Oskar").textContent).toContain("lifted");
    expect(within(row("Oskar")).queryByRole("button")).toBeNull();
    expect(row("192.0.2.0/24").textContent).toContain("somebody lifts it");
    await user.click(within(row("192.0.2.0/24")).getByRole("button", { name: "Lift" }));
    await screen.findByText("Ban on 192.0.2.0/24 lifted");
  });

  it("of a range keep what was typed when it is none", async () => {
    server.answers.set("/api/bans", fine([]));
    server.answers.set(
      "POST /api/bans",
      refused("Look", {
        fields: [{ field: "network", words: "Write an address like 192.0.2.7 or a range." }],
      }),
    );
    const { user } = await draw(server, <BansPage />);
    await user.type(await screen.findByRole("textbox", { name: "Address or range" }), "300.1");
    await user.type(screen.getByRole("textbox", { name: "Reason" }), "Spam");
    await user.click(button("Ban"));
    await screen.findByText("Write an address like 192.0.2.7 or a range.");
    expect(screen.getByRole("textbox", { name: "Reason" })).toHaveProperty("value", "Spam");
    expect(server.got("POST /api/bans")).toEqual([{ network: "300.1", reason: "Spam", hours: 24 }]);
  });
});

describe("the team", () => {
  const person = (id: string, name: string): PersonSettings => ({
    id,
    name,
    email: `${id}@example.com`,
    role: "operator",
    active: true,
    capacity: 0,
    percent: 100,
    languages: ["en"],
    departments: [],
    version: 1,
    load: 0,
    shownName: "",
    welcome: "",
    factor: false,
    joined: true,
  });
  beforeEach(() => {
    server.answers.set(
      "/api/setup/people",
      fine([person("maren", "Maren Holt"), person("idris", "Idris Vane")]),
    );
    server.answers.set("/api/setup/departments", fine([]));
  });

  it("keeps half-made changes over the look at somebody else, but never a password", async () => {
    const { user } = await draw(server, <TeamPage />);
    await user.clear(await screen.findByRole("textbox", { name: "Languages" }));
    await user.type(screen.getByRole("textbox", { name: "Languages" }), "en, d");
    await user.type(screen.getByLabelText("New password"), "a long password");
    await user.click(button(/^Idris Vane/));
    expect(screen.getByRole("textbox", { name: "Name" })).toHaveProperty("value", "Idris Vane");
    expect(button(/^Maren Holt/).textContent).toContain("not saved");
    await user.click(button(/^Maren Holt/));
    expect(screen.getByRole("textbox", { name: "Languages" })).toHaveProperty("value", "en, d");
    expect(screen.getByLabelText("New password")).toHaveProperty("value", "");
    expect(JSON.stringify({ ...localStorage })).not.toContain("a long password");
  });

  it("stores languages as codes, and a new password with the rest", async () => {
    server.answers.set("PUT /api/setup/people", (body) => fine(body));
    const { user } = await draw(server, <TeamPage />);
    await user.type(await screen.findByRole("textbox", { name: "Languages" }), " ,da");
    await user.type(screen.getByLabelText("New password"), "a long password");
    await user.click(button("Save"));
    await screen.findByText("Maren Holt saved");
    expect(server.got("PUT /api/setup/people")).toMatchObject([
      { id: "maren", languages: ["en", "da"], password: "a long password" },
    ]);
    expect(screen.getByLabelText("New password")).toHaveProperty("value", "");
    expect(button("Save")).toHaveProperty("disabled", true);
  });
});

describe("hours", () => {
  const hours = (change: Partial<HoursSettings> = {}): HoursSettings => ({
    id: "h1",
    version: 1,
    name: "Office",
    zone: "Europe/Copenhagen",
    weekly: [{ day: 1, from: "09:00", to: "17:00" }],
    exceptions: [],
    ...change,
  });

  it("read from a calendar replace the week, are named as not saved, and can be undone", async () => {
    server.answers.set("/api/setup/hours", fine([hours()]));
    server.answers.set("POST /api/setup/hours/check", fine({ open: true, zone: "UTC" }));
    server.answers.set(
      "POST /api/setup/hours/import",
      fine({
        hours: hours({
          name: "From elsewhere",
          zone: "Europe/Paris",
          weekly: [{ day: 6, from: "10:00", to: "12:00" }],
        }),
        leftOut: ["A meeting on every second Monday"],
      }),
    );
    const { user } = await draw(server, <HoursPage />);
    const file = new File(["BEGIN:VCALENDAR"], "hours.ics", { type: "text/calendar" });
    await screen.findByRole("heading", { name: "Office" });
    await user.upload(document.querySelector("input[type=file]") as HTMLInputElement, file);
    await screen.findByText("A meeting on every second Monday");
    expect(screen.getByRole("textbox", { name: "Name" })).toHaveProperty("value", "Office");
    expect(server.got("PUT /api/setup/hours")).toEqual([]);
    expect(button(/^Office/).textContent).toContain("not saved");
    await user.click(button("Undo changes"));
    await waitFor(() => expect(button(/^Office/).textContent).not.toContain("not saved"));
  });
});

describe("what holds for every Desk", () => {
  const desk = (change: Partial<DeskSettings> = {}): DeskSettings => ({
    version: "a",
    priorityMinutes: 10,
    outcomes: ["Answered"],
    currency: "EUR",
    maxMegabytes: 25,
    fileKinds: ["picture"],
    contactFields: [],
    ...change,
  });

  it("is kept while it is edited, and shows when an admin elsewhere was faster", async () => {
    let stored = desk();
    server.answers.set("/api/setup/desk", () => fine(stored));
    const { user } = await draw(server, <DeskSettingsPage />);
    const currency = () => screen.getByRole("textbox", { name: "Currency of sales" });
    await user.clear(await screen.findByRole("textbox", { name: "Currency of sales" }));
    await user.type(currency(), "SEK");
    leave();
    stored = desk({ version: "b", currency: "DKK" });
    await draw(server, <DeskSettingsPage />);
    await screen.findByRole("button", { name: "Use theirs" });
    expect(currency()).toHaveProperty("value", "SEK");
    expect(screen.queryByRole("button", { name: "Save" })).toBeNull();
  });
});
