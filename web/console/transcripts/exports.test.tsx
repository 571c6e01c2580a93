import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { Export } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { Exports } from "./exports";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const made = (id: string, part: Partial<Export> = {}): Export => ({
  id,
  format: "csv",
  state: "done",
  total: 12,
  done: 12,
  size: 900,
  createdAt: "2026-09-17T13:33:00Z",
  ...part,
});
const asked = "POST /api/exports?words=ferry&format=html&notes=true";

let server: FakeServer;
let list: Export[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  list = [];
  server.answers.set("/api/exports", () => fine(list));
});

const opened = async (total = 12000, more = true) => {
  const { user } = await draw(
    server,
    <Exports address={new URLSearchParams()} words="ferry" total={total} more={more} />,
  );
  await waitFor(() => expect(server.asked).toContain("/api/exports"));
  await user.click(await screen.findByRole("button", { name: /^Export/ }));
  return user;
};
const starts = () => server.sent.filter((s) => s.what.startsWith("POST"));

describe("an export", () => {
  it("is started once, however often the button is pressed", async () => {
    let answers = () => {};
    const user = await opened();
    expect(screen.getByText(/^More than 12,000 chats match/)).toBeTruthy();
    server.hold.set(asked, new Promise((resolve) => (answers = resolve)));
    server.answers.set(asked, fine(made("a")));
    await user.click(screen.getByRole("button", { name: "Start the export" }));
    await user.click(screen.getByRole("button", { name: "Start the export" }));
    answers();
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "Start the export" })).toHaveProperty("disabled", false),
    );
    expect(starts().map((s) => s.what)).toEqual([asked]);
  });

  it("says why it could not be started", async () => {
    server.answers.set(asked, refused("Three exports are under way already"));
    const user = await opened();
    await user.click(screen.getByRole("button", { name: "Start the export" }));
    await waitFor(() => expect(starts()).toHaveLength(1));
    await screen.findByText(/Three exports are under way already/);
  });

  it("tells how far it is, can be cancelled, and is handed out when it is done", async () => {
    list = [made("a", { state: "working", done: 3 }), made("b"), made("c", { state: "failed" })];
    server.answers.set("DELETE /api/exports/a", () => {
      list = list.slice(1);
      return fine(undefined);
    });
    const user = await opened(0, false);
    await screen.findByText(/3 of 12 chats/);
    expect(screen.queryByRole("button", { name: "Start the export" })).toBeNull();
    expect(screen.getByText(/could not be made/)).toBeTruthy();
    expect(screen.getByRole<HTMLAnchorElement>("link", { name: "Download" }).pathname).toBe(
      "/api/exports/b/file",
    );
    await user.click(screen.getByRole("button", { name: "Cancel this export" }));
    await waitFor(() => expect(screen.queryByText(/3 of 12 chats/)).toBeNull());
  });
});
