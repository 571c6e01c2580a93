import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { KeyView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { KeysPage } from "./keys";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const key = (change: Partial<KeyView>): KeyView => ({
  id: "k1",
  name: "Records",
  shown: "stoop_AbCdEf",
  scopes: ["transcripts"],
  createdBy: "Ansel Merrow",
  createdAt: "2026-11-01T10:00:00Z",
  ...change,
});

let server: FakeServer;
let list: KeyView[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  list = [key({})];
  server.answers.set("GET /api/keys", () => fine(list));
});

const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("API keys", () => {
  it("are shown once, when they are made, and not again", async () => {
    const ordered: unknown[] = [];
    server.answers.set("POST /api/keys", (body) => {
      ordered.push(body);
      list = [key({ id: "k2", name: "Ledger" }), ...list];
      return fine({ ...key({ id: "k2", name: "Ledger" }), key: "stoop_SECRETSECRET" });
    });
    const { user } = await draw(server, <KeysPage />);
    await user.type(await screen.findByRole("textbox", { name: "For which program" }), "Ledger");
    for (const box of screen.getAllByRole("checkbox")) await user.click(box);
    await user.click(button("Make the key"));
    await screen.findByText("stoop_SECRETSECRET");
    expect(ordered).toHaveLength(1);
    expect(ordered[0]).toMatchObject({ name: "Ledger" });
    await user.click(button("I have it"));
    expect(screen.queryByText("stoop_SECRETSECRET")).toBeNull();
  });

  it("keep what was typed where making one is refused", async () => {
    server.answers.set("POST /api/keys", () => refused("There are 100 keys already"));
    const { user } = await draw(server, <KeysPage />);
    const name = await screen.findByRole<HTMLInputElement>("textbox", { name: "For which program" });
    await user.type(name, "Ledger");
    await user.click(screen.getAllByRole("checkbox")[0] as HTMLElement);
    await user.click(button("Make the key"));
    await screen.findByText(/There are 100 keys already/);
    expect(name.value).toBe("Ledger");
    expect(screen.getAllByRole<HTMLInputElement>("checkbox")[0]?.checked).toBe(true);
  });

  it("are revoked after a question, and say in words how they stand", async () => {
    list = [
      key({}),
      key({ id: "k2", name: "Old", expiresAt: "2020-01-01T00:00:00Z" }),
      key({ id: "k3", name: "Gone", revokedAt: "2026-11-02T10:00:00Z" }),
    ];
    const revoked = vi.fn(() => {
      list = [key({ revokedAt: "2026-11-29T10:00:00Z" })];
      return fine(undefined);
    });
    server.answers.set("DELETE /api/keys/k1", revoked);
    const { user } = await draw(server, <KeysPage />);
    const row = async (name: string) => await screen.findByRole("row", { name: new RegExp(`^${name}`) });
    expect((await row("Old")).textContent).toContain("expired");
    expect((await row("Gone")).textContent).toContain("revoked");
    expect(within(await row("Gone")).queryByRole("button")).toBeNull();
    await user.click(button("Revoke the key of Records"));
    await user.click(button("Keep it"));
    expect(revoked).not.toHaveBeenCalled();
    await user.click(button("Revoke the key of Records"));
    await user.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Revoke" }));
    await waitFor(() => expect(revoked).toHaveBeenCalledTimes(1));
    await waitFor(async () => expect((await row("Records")).textContent).toContain("revoked"));
  });
});
