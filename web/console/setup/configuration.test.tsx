import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import type { TakenIn } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { ConfigurationPage } from "./configuration";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const told = (part: Partial<TakenIn> = {}): TakenIn => ({
  state: "mark-1",
  changes: [
    {
      id: 0,
      at: "0001-01-01T00:00:00Z",
      by: "",
      kind: "widget",
      thingId: "w1",
      name: "Kelpwick Ferries",
      act: "changed",
      parts: [{ path: "design.title", before: "Ask us", after: "Ask the harbour" }],
    },
  ],
  notes: [],
  wrong: [],
  newer: 0,
  applied: false,
  ...part,
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const path = "POST /api/setup/configuration";
const bring = (text: string, name = "stoop.json") => {
  const input = document.querySelector<HTMLInputElement>("input[type=file]");
  if (!input) throw new Error("there is no place for a file");
  fireEvent.change(input, { target: { files: [new File([text], name)] } });
};
const apply = () => screen.getByRole("button", { name: "Apply" });

it("tells what would change, and changes it only after a second word, by what was told", async () => {
  server.answers.set(path, (body) =>
    fine(told((body as { apply?: boolean }).apply ? { applied: true } : { newer: 2 })),
  );
  const { user } = await draw(server, <ConfigurationPage />);
  expect(apply()).toHaveProperty("disabled", true);
  bring("{}");
  await screen.findByText("Ask the harbour");
  screen.getByText("1 thing would change.");
  screen.getByText(/2 changes were made here since/);
  expect(server.sent.map((s) => s.body)).toEqual([{ file: "{}" }]);
  await user.click(apply());
  await user.click(screen.getAllByRole("button", { name: "Apply" }).at(-1) as HTMLElement);
  await screen.findByText("Done: 1 thing changed.");
  expect(server.sent.at(-1)?.body).toEqual({ file: "{}", apply: true, state: "mark-1" });
  expect(apply()).toHaveProperty("disabled", true);
});

it("says what must be mended in the file and what is left out, and applies nothing", async () => {
  server.answers.set(
    path,
    fine(
      told({
        wrong: [{ where: "department Bookings", field: "capacity", words: "Choose a day." }],
        notes: ["The widget Freight has another key here: abc."],
      }),
    ),
  );
  await draw(server, <ConfigurationPage />);
  bring("{}");
  await screen.findByText("department Bookings");
  screen.getByText("The widget Freight has another key here: abc.");
  expect(apply()).toHaveProperty("disabled", true);
});

it("keeps what was told when a colleague was faster, and looks again", async () => {
  server.answers.set(path, (body) =>
    (body as { apply?: boolean }).apply
      ? refused("Somebody else changed this", { status: 409, code: "changed", detail: "Look at it." })
      : fine(told()),
  );
  const { user } = await draw(server, <ConfigurationPage />);
  bring("{}");
  await screen.findByText("Ask the harbour");
  await user.click(apply());
  await user.click(screen.getAllByRole("button", { name: "Apply" }).at(-1) as HTMLElement);
  await screen.findByRole("alert");
  await user.click(screen.getByRole("button", { name: "Look again at what would change" }));
  await waitFor(() => expect(server.sent).toHaveLength(3));
  expect(server.sent.at(-1)?.body).toEqual({ file: "{}" });
});

it("says of a file that is none why, and never what was said of another", async () => {
  let first: () => void = () => undefined;
  server.hold.set(path, new Promise((go) => (first = go)));
  server.answers.set(path, (body) =>
    (body as { file: string }).file === "old"
      ? fine(told())
      : refused("Something is wrong", {
          status: 422,
          code: "bad-fields",
          fields: [
            {
              field: "file",
              words: "This is no configuration of Stoop. Choose a file that was downloaded here.",
            },
          ],
        }),
  );
  await draw(server, <ConfigurationPage />);
  bring("old", "old.json");
  await waitFor(() => expect(server.sent).toHaveLength(1));
  bring("new", "new.json");
  await waitFor(() => expect(server.sent).toHaveLength(2));
  first();
  expect((await screen.findByRole("alert")).textContent).toContain("This is no configuration of Stoop.");
  expect(screen.queryByText("Ask the harbour")).toBeNull();
});
