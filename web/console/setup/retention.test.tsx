import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { RetentionPreview } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, maren } from "../desk/fake-desk";
import { RetentionPage } from "./retention";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const admin = { ...maren, role: "admin" as const };
const nothing: RetentionPreview = {
  chats: 0,
  messages: 0,
  form: 0,
  files: 0,
  bytes: 0,
  visits: 0,
  tickets: 0,
};

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/setup/retention", fine({ version: "3", chats: 0, form: 0, files: 0, visits: 0 }));
  server.answers.set("/api/retention/deletions", fine([]));
  server.answers.set("POST /api/retention/preview", (body) =>
    fine((body as { chats: number }).chats > 0 ? { ...nothing, chats: 469, messages: 2330 } : nothing),
  );
  server.answers.set("PUT /api/setup/retention", (body) => fine({ ...(body as object), version: "4" }));
});

const saved = () => server.got("PUT /api/setup/retention");
const button = (name: string) => screen.getByRole("button", { name });

describe("what is kept for how long", () => {
  it("is saved only after what goes was read and wanted", async () => {
    const { user } = await draw(server, <RetentionPage />, { me: admin });
    await user.type(await screen.findByLabelText(/Whole chats/), "300");
    await screen.findByText("469 whole chats with 2,330 messages");
    await user.click(button("Save"));
    await screen.findByText("Delete for good?");
    await user.keyboard("{Enter}"); // the key at hand keeps all
    await waitFor(() => expect(screen.queryByText("Delete for good?")).toBeNull());
    expect(saved()).toEqual([]);
    await user.click(button("Save"));
    await user.click(await screen.findByRole("button", { name: "Save and delete" }));
    await waitFor(() =>
      expect(saved()).toEqual([{ version: "3", chats: 300, form: 0, files: 0, visits: 0 }]),
    );
  });

  it("is asked for even when it could not be counted", async () => {
    server.answers.set("POST /api/retention/preview", {
      status: 500,
      body: { code: "internal", title: "Something went wrong", detail: "", status: 500, retry: true },
    });
    const { user } = await draw(server, <RetentionPage />, { me: admin });
    await user.type(await screen.findByLabelText(/Shared files/), "30");
    await user.click(button("Save"));
    await screen.findByText("How much that is could not be counted yet.");
    expect(saved()).toEqual([]);
  });

  it("is saved at once when nothing goes", async () => {
    const { user } = await draw(server, <RetentionPage />, { me: admin });
    await user.type(await screen.findByLabelText(/Visits/), "900");
    await screen.findByText("Nothing.");
    await waitFor(() => expect(screen.queryByText("Counting")).toBeNull());
    await user.click(button("Save"));
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(screen.queryByText("Delete for good?")).toBeNull();
  });

  it("says what was wrong at its field, and keeps what was typed", async () => {
    server.answers.set("PUT /api/setup/retention", {
      status: 422,
      body: {
        code: "bad-fields",
        title: "Something is not right",
        detail: "",
        status: 422,
        retry: false,
        fields: [{ field: "chats", words: "Choose between 1 and 3650 days, or nothing for ever." }],
      },
    });
    const { user } = await draw(server, <RetentionPage />, { me: admin });
    const field = await screen.findByLabelText(/Visits/);
    await user.type(field, "9999");
    await screen.findByText("Nothing.");
    await waitFor(() => expect(screen.queryByText("Counting")).toBeNull());
    await user.click(button("Save"));
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect((field as HTMLInputElement).value).toBe("9999");
  });
});
