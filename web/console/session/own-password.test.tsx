import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import OwnPassword from "./own-password";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

beforeEach(() => localStorage.clear());

it("is changed by oneself; what is wrong stands at its field, and nothing typed is lost", async () => {
  const server = new FakeServer();
  server.answers.set(
    "PUT /api/me/password",
    refused("This cannot be saved", {
      fields: [{ field: "current", words: "This is not your current password." }],
    }),
  );
  const closed = vi.fn();
  const { user } = await draw(server, <OwnPassword onClose={closed} />);
  await user.type(screen.getByLabelText("Current password"), "over-to-brae");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Change password" }).disabled).toBe(true);
  await user.type(screen.getByLabelText("New password"), "back-by-the-evening");
  await user.click(screen.getByRole("button", { name: "Change password" }));
  await screen.findByText("This is not your current password.");
  expect(closed).not.toHaveBeenCalled();
  expect(screen.getByLabelText<HTMLInputElement>("New password").value).toBe("back-by-the-evening");

  server.answers.set("PUT /api/me/password", fine({}));
  await user.type(screen.getByLabelText("Current password"), "-by-lunch");
  await user.click(screen.getByRole("button", { name: "Change password" }));
  await waitFor(() => expect(closed).toHaveBeenCalled());
  expect(server.got("PUT /api/me/password").at(-1)).toEqual({
    current: "over-to-brae-by-lunch",
    new: "back-by-the-evening",
  });
  await screen.findByText("Password changed. You have been logged out everywhere else.");
});
