import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { OperatorView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, maren, refused } from "../desk/fake-desk";
import { PersonKept } from "./person";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const admin = { ...maren, role: "admin" as const };
const kept = {
  name: "Wren Alder",
  email: "wren@example.com",
  contact: true,
  notes: 2,
  visitors: 1,
  claimed: 3,
  chats: 4,
  messages: 51,
  files: 1,
  visits: 9,
};

let server: FakeServer;
let forgotten: ReturnType<typeof vi.fn<() => void>>;
beforeEach(() => {
  localStorage.clear();
  forgotten = vi.fn();
  server = new FakeServer();
  server.answers.set("POST /api/people/kept", (body) =>
    fine((body as { claimed: boolean }).claimed ? { ...kept, visitors: 4, chats: 7, messages: 80 } : kept),
  );
  server.answers.set("POST /api/people/forget", fine({}));
});

const drawn = async (me: OperatorView = admin) => {
  server.desk = { ...server.desk, me };
  const { user } = await draw(
    server,
    <PersonKept who={{ contactId: "c1" }} name="Wren Alder" forgotten={forgotten} />,
    { me },
  );
  return user;
};
const opened = async () => {
  const user = await drawn();
  await user.click(screen.getByRole("button", { name: "Personal data" }));
  await screen.findByText("51 messages");
  return user;
};
const forget = () => screen.getByRole<HTMLButtonElement>("button", { name: "Forget Wren Alder" });
const tick = (name: RegExp) => screen.getByRole<HTMLInputElement>("checkbox", { name });
const sent = () => server.got("POST /api/people/forget");

describe("what is kept of a person", () => {
  it("is an admin’s to see", async () => {
    await drawn({ ...maren, role: "lead" });
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("goes only after it was said that this cannot be undone", async () => {
    const user = await opened();
    expect(screen.getByText("The contact, with 2 notes")).toBeTruthy();
    expect(forget().disabled).toBe(true);
    await user.click(tick(/cannot be undone/));
    await user.click(forget());
    await waitFor(() => expect(forgotten).toHaveBeenCalledOnce());
    expect(sent()).toEqual([{ contactId: "c1", claimed: false }]);
    await waitFor(() => expect(screen.queryByText("51 messages")).toBeNull());
  });

  it("is counted anew with what may be somebody else’s, and must be wanted anew", async () => {
    const user = await opened();
    await user.click(tick(/cannot be undone/));
    expect(forget().disabled).toBe(false);
    await user.click(tick(/only this email was given/));
    await screen.findByText("80 messages");
    expect(tick(/cannot be undone/).checked).toBe(false);
    expect(forget().disabled).toBe(true);
    await user.click(tick(/cannot be undone/));
    await user.click(forget());
    await waitFor(() => expect(sent()).toEqual([{ contactId: "c1", claimed: true }]));
  });

  it("does not go on what was counted for less", async () => {
    const user = await opened();
    let counted = () => {};
    server.hold.set("POST /api/people/kept", new Promise((resolve) => (counted = resolve)));
    await user.click(tick(/only this email was given/));
    await user.click(tick(/cannot be undone/));
    expect(forget().disabled).toBe(true);
    counted();
    await screen.findByText("80 messages");
    expect(forget().disabled).toBe(false);
  });

  it("stays, and says why, when it cannot be forgotten now", async () => {
    server.answers.set("POST /api/people/forget", refused("A chat with this person is open"));
    const user = await opened();
    await user.click(tick(/cannot be undone/));
    await user.click(forget());
    await screen.findByText(/A chat with this person is open/);
    expect(forgotten).not.toHaveBeenCalled();
    expect(tick(/cannot be undone/).checked).toBe(true);
    server.answers.set("POST /api/people/forget", fine({}));
    await user.click(forget());
    await waitFor(() => expect(forgotten).toHaveBeenCalledOnce());
  });

  it("is handed out without the team’s words unless they are wanted", async () => {
    const user = await opened();
    const link = () => new URL(screen.getByRole<HTMLAnchorElement>("link", { name: /archive/ }).href);
    expect(Object.fromEntries(link().searchParams)).toEqual({ contactId: "c1", notes: "false" });
    await user.click(tick(/team’s notes/));
    expect(link().searchParams.get("notes")).toBe("true");
  });
});
