import { screen, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { ChannelLine, ChannelSettings } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine } from "../desk/fake-desk";
import { ChannelsPage } from "./channels";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const number: ChannelLine = {
  id: "l1",
  kind: "text",
  name: "Text messages",
  address: "+447700900100",
  widgetId: "w1",
  offered: true,
  quietMinutes: 60,
  on: true,
};

let server: FakeServer;
let put: ChannelSettings[];
let answer: () => ReturnType<typeof fine>;
let connected: { texts: boolean; mail: boolean };
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  put = [];
  connected = { texts: true, mail: false };
  answer = () => fine({ version: "2", lines: put.at(-1)?.lines ?? [] });
  server.answers.set("GET /api/setup/channels", () => fine({ version: "1", lines: [number], ...connected }));
  server.answers.set("GET /api/setup/departments", () => fine([{ id: "b", name: "Bookings" }]));
  server.answers.set("GET /api/setup/widgets", () =>
    fine([{ id: "w1", design: { name: "Kelpwick Ferries" } }]),
  );
  server.answers.set("PUT /api/setup/channels", (body) => {
    put.push(body as ChannelSettings);
    return answer();
  });
});

const button = (name: string | RegExp) => screen.getByRole("button", { name });

it("a line is made, refused at its fields with nothing lost, and saved with the others", async () => {
  const { user } = await draw(server, <ChannelsPage />);
  await screen.findByRole("heading", { name: "Text messages" });
  await user.click(button("New"));
  await user.type(screen.getByLabelText("Name"), "Freight");
  await user.type(screen.getByLabelText("Number"), "32 12");
  answer = () => ({
    status: 422,
    body: {
      code: "bad-fields",
      title: "Look again",
      fields: [
        {
          field: "lines.1.address",
          words: "Enter the whole number with its country code, like +45 32 12 34 56.",
        },
      ],
    },
  });
  await user.click(button("Save"));
  await screen.findByText(/Enter the whole number with its country code/);
  expect(screen.getByLabelText<HTMLInputElement>("Number").value).toBe("32 12");
  answer = () => fine({ version: "2", lines: put.at(-1)?.lines ?? [] });
  await user.clear(screen.getByLabelText("Number"));
  await user.type(screen.getByLabelText("Number"), "+45 32 12 34 56");
  await user.click(button("Save"));
  await screen.findByText("Lines saved and in effect");
  expect(put.at(-1)?.lines.map((l) => [l.name, l.address, l.widgetId, l.on])).toEqual([
    ["Text messages", "+447700900100", "w1", true],
    ["Freight", "+45 32 12 34 56", "w1", true],
  ]);
});

it("says when nothing is connected that could bring or carry the messages", async () => {
  connected = { texts: false, mail: true };
  await draw(server, <ChannelsPage />);
  await screen.findByText(/No gateway for text messages is connected/);
});

it("a line is removed once it is saved without it", async () => {
  const { user } = await draw(server, <ChannelsPage />);
  await user.click(await screen.findByRole("button", { name: "Remove this line" }));
  await user.click(button("Save"));
  await screen.findByText("Lines saved and in effect");
  expect(put[0]?.lines).toEqual([]);
  expect(
    within(screen.getByRole("region", { name: "Text and email" })).queryByText("Text messages"),
  ).toBeNull();
});
