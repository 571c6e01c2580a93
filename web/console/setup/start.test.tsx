import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { StartPage } from "./start";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const nothing = {
  site: false,
  department: false,
  looks: false,
  seen: false,
  chat: false,
  team: false,
  mails: true,
};

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/setup/progress", fine(nothing));
});

it("keeps what was typed of the site when it is refused, and goes on when it is not", async () => {
  server.answers.set("/api/setup/site", fine({ version: "2", zone: "" }));
  server.answers.set("PUT /api/setup/site", fine({}));
  server.answers.set(
    "POST /api/setup/widgets",
    refused("Look", {
      fields: [
        { field: "sites", words: "A site must be an address like https://www.example.com, without a path." },
      ],
    }),
  );
  const { user } = await draw(server, <StartPage />);
  await user.type(await screen.findByLabelText("Name"), "Harbour shop");
  await user.type(screen.getByLabelText("Address of the site"), "the harbour");
  await user.click(screen.getByRole("button", { name: "Go on" }));
  await screen.findByText(/A site must be an address/);
  expect(screen.getByLabelText("Name")).toHaveProperty("value", "Harbour shop");
  server.answers.set("POST /api/setup/widgets", fine({ key: "harbour" }));
  server.answers.set("/api/setup/progress", fine({ ...nothing, site: true, widget: "harbour" }));
  await user.click(screen.getByRole("button", { name: "Go on" }));
  await screen.findByLabelText("Department");
  await screen.findByText("2 of 6 done");
});

it("gives the first department its hours and its first member", async () => {
  server.answers.set("/api/setup/progress", fine({ ...nothing, site: true, widget: "harbour" }));
  server.answers.set("/api/setup/site", fine({ version: "2", zone: "Europe/Copenhagen" }));
  server.answers.set(
    "/api/setup/departments",
    fine([{ id: "d1", name: "Team", isDefault: true, version: 1, members: [] }]),
  );
  server.answers.set("/api/setup/hours", fine([]));
  server.answers.set("PUT /api/setup/hours", fine({ id: "h1" }));
  server.answers.set("PUT /api/setup/departments", fine({ id: "d1" }));
  const { user } = await draw(server, <StartPage />);
  await user.click(await screen.findByRole("checkbox", { name: "Saturday" }));
  await user.click(screen.getByRole("button", { name: "Go on" }));
  await waitFor(() => expect(server.got("PUT /api/setup/departments")).toHaveLength(1));
  expect(server.got("PUT /api/setup/hours")[0]).toMatchObject({
    zone: "Europe/Copenhagen",
    weekly: [1, 2, 3, 4, 5, 6].map((day) => ({ day, from: "09:00", to: "17:00" })),
  });
  expect(server.got("PUT /api/setup/departments")[0]).toMatchObject({
    hoursId: "h1",
    name: "Support",
    members: [{ operatorId: server.desk.me.id, backup: false }],
  });
});

it("says that everything is there, and what else there is", async () => {
  server.answers.set(
    "/api/setup/progress",
    fine({
      site: true,
      department: true,
      looks: true,
      seen: true,
      chat: true,
      team: true,
      mails: false,
      widget: "w",
    }),
  );
  await draw(server, <StartPage />);
  await screen.findByText("Everything is there.");
  await screen.findByText(/No mail can be sent yet/);
});
