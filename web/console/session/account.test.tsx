import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import Account from "./account";
import Login from "./login";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const profile = { shownName: "", welcome: "", photo: "", factor: false, codes: 0 };
let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  history.replaceState(null, "", "/desk");
  server = new FakeServer();
  server.answers.set("/api/me/profile", fine(profile));
  server.answers.set(
    "/api/me/sessions",
    fine([
      {
        id: "a",
        began: "2026-11-28T10:00:00Z",
        address: "192.0.2.7",
        device: "Firefox 140, Linux",
        this: true,
      },
      { id: "b", began: "2026-11-27T10:00:00Z", address: "192.0.2.8", device: "Safari 18, iOS", this: false },
    ]),
  );
});
const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("my account", () => {
  it("ends one other session, and never offers to end this one", async () => {
    server.answers.set("DELETE /api/me/sessions?id=b", fine({}));
    const { user } = await draw(server, <Account onClose={() => undefined} />);
    await screen.findByText("Safari 18, iOS");
    expect(screen.getAllByRole("button", { name: "Log out there" })).toHaveLength(1);
    server.answers.set(
      "/api/me/sessions",
      fine([
        {
          id: "a",
          began: "2026-11-28T10:00:00Z",
          address: "192.0.2.7",
          device: "Firefox 140, Linux",
          this: true,
        },
      ]),
    );
    await user.click(button("Log out there"));
    await waitFor(() => expect(button("Logged in nowhere else")).toHaveProperty("disabled", true));
  });

  it("switches two-factor on with the password, a code, and recovery codes that are shown once", async () => {
    server.answers.set(
      "POST /api/me/factor",
      refused("Look", { fields: [{ field: "password", words: "This is not your current password." }] }),
    );
    const { user } = await draw(server, <Account onClose={() => undefined} />);
    await user.click(await screen.findByRole("button", { name: "Switch two-factor on" }));
    await user.type(screen.getByLabelText(/Your password/), "wrong");
    await user.click(button("Go on"));
    await screen.findByText("This is not your current password.");
    server.answers.set(
      "POST /api/me/factor",
      fine({ secret: "ABCDEFGH", address: "otpauth://x", picture: "data:image/png;base64,x" }),
    );
    await user.click(button("Go on"));
    await screen.findByText("ABCD EFGH");
    server.answers.set(
      "POST /api/me/factor/confirm",
      refused("Look", {
        fields: [{ field: "code", words: "This code is not right. Enter the newest one." }],
      }),
    );
    await user.type(screen.getByLabelText("Code"), "123456");
    await user.click(button("Switch on"));
    await screen.findByText("This code is not right. Enter the newest one.");
    server.answers.set("POST /api/me/factor/confirm", fine(["aaaa-bbbb-cccc-dddd"]));
    server.answers.set("/api/me/profile", fine({ ...profile, factor: true, codes: 1 }));
    await user.click(button("Switch on"));
    await screen.findByText("aaaa-bbbb-cccc-dddd");
    await user.click(button("I have kept them"));
    await screen.findByText(/1 recovery code is left/);
    expect(screen.queryByText("aaaa-bbbb-cccc-dddd")).toBeNull();
  });

  it("stores the name that visitors see, and keeps it typed when that fails", async () => {
    server.answers.set(
      "PUT /api/me/profile",
      refused("The server is busy", { status: 503, detail: "Try again." }),
    );
    const { user } = await draw(server, <Account onClose={() => undefined} />);
    await user.type(await screen.findByLabelText("Name that visitors see"), "Captain M");
    await user.click(button("Save"));
    await screen.findByText(/The server is busy/);
    expect(screen.getByLabelText("Name that visitors see")).toHaveProperty("value", "Captain M");
    server.answers.set("PUT /api/me/profile", fine({ ...profile, shownName: "Captain M" }));
    await user.click(button("Save"));
    await waitFor(() => expect(button("Save")).toHaveProperty("disabled", true));
  });
});

describe("the way in", () => {
  it("asks for a code once the password was right, and keeps both typed when the code was not", async () => {
    const done = vi.fn();
    server.answers.set(
      "POST /api/session",
      refused("A code is needed too", { status: 401, code: "code-needed", detail: "Enter it." }),
    );
    const { user } = await draw(server, <Login onDone={done} />);
    await user.type(screen.getByLabelText("Email"), "maren@example.com");
    await user.type(screen.getByLabelText("Password"), "over to brae by lunch");
    await user.click(button("Log in"));
    await user.type(await screen.findByLabelText("Code"), "000000");
    server.answers.set(
      "POST /api/session",
      refused("This code is not right", { status: 401, code: "bad-code", detail: "Enter the newest one." }),
    );
    await user.click(button("Log in"));
    await screen.findByText(/This code is not right/);
    expect(screen.getByLabelText("Password")).toHaveProperty("value", "over to brae by lunch");
    server.answers.set("POST /api/session", fine({ id: "maren", name: "Maren" }));
    await user.click(button("Log in"));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(server.got("POST /api/session").at(-1)).toMatchObject({ code: "000000" });
  });

  it("lets somebody join by their link, and says when it is over", async () => {
    const done = vi.fn();
    history.replaceState(null, "", "/join/abc");
    server.answers.set("/api/join/abc", fine({ name: "Pia", email: "pia@example.com" }));
    server.answers.set(
      "POST /api/join/abc",
      refused("Look", {
        fields: [
          {
            field: "password",
            words: "This password is used by many people. Choose one that nobody else has.",
          },
        ],
      }),
    );
    const { user } = await draw(server, <Login onDone={done} />);
    await screen.findByText("pia@example.com");
    await user.type(screen.getByLabelText("Password"), "password");
    await user.click(button("Join the team"));
    await screen.findByText(/used by many people/);
    server.answers.set("POST /api/join/abc", fine({ id: "pia", name: "Pia" }));
    await user.click(button("Join the team"));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(location.pathname).toBe("/desk");
  });

  it("says that an invitation is over", async () => {
    history.replaceState(null, "", "/join/old");
    server.answers.set(
      "/api/join/old",
      refused("This invitation cannot be used", {
        status: 410,
        code: "invitation-over",
        detail: "Ask for another one.",
      }),
    );
    await draw(server, <Login onDone={() => undefined} />);
    await screen.findByText(/Ask for another one/);
  });
});
