import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { TicketView } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { Answer } from "./answer";
import { CallBand } from "./call-band";
import { Due } from "./due";
import { row } from "./fake-tickets";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const refund: TicketView = {
  ...row(1001, { id: "t1", title: "Refund" }),
  openedBy: "Maren Holt",
  fields: [],
  values: {},
  chats: [],
  events: [],
  reaches: "mail",
};

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const field = () => screen.getByRole<HTMLTextAreaElement>("textbox");

describe("answering a ticket", () => {
  it("keeps words that could not be sent, sends them again as the same ones, and a note apart from them", async () => {
    const sent: { clientId: string; text: string }[] = [];
    server.answers.set("POST /api/tickets/t1/words", (body) => {
      sent.push(body as (typeof sent)[number]);
      return sent.length === 1 ? refused("Not now") : fine(refund);
    });
    const { user } = await draw(server, <Answer ticket={refund} />);
    await user.type(field(), "It is paid out");
    await user.click(screen.getByRole("button", { name: /^Send Ctrl/ }));
    await screen.findByRole("alert");
    expect(field().value).toBe("It is paid out");
    await user.click(screen.getByRole("tab", { name: "Note" }));
    expect(field().value).toBe("");
    await user.click(screen.getByRole("tab", { name: "Answer" }));
    await user.click(screen.getByRole("button", { name: /^Send Ctrl/ }));
    await waitFor(() => expect(field().value).toBe(""));
    expect(sent[1]).toEqual(sent[0]);
  });

  it("lets nothing be written to somebody who cannot be reached", async () => {
    const { user } = await draw(server, <Answer ticket={{ ...refund, reaches: "nobody", email: "" }} />);
    expect(screen.getByRole("tab", { name: "Note" }).getAttribute("aria-selected")).toBe("true");
    await user.click(screen.getByRole("tab", { name: "Answer" }));
    expect(field().disabled).toBe(true);
  });
});

describe("a call", () => {
  it("is put down with what came of it, which stays where that fails", async () => {
    const put: { reached: boolean; text?: string; again?: string }[] = [];
    server.answers.set("POST /api/tickets/t1/calls", (body) => {
      put.push(body as (typeof put)[number]);
      return put.length === 1 ? refused("Not now") : fine({ ...refund, status: "done" });
    });
    const call = { phone: "+442079460123", shown: "+44 20 7946 0123", at: "2026-11-29T10:00:00Z", tries: 0 };
    const { user } = await draw(server, <CallBand ticket={{ ...refund, call }} />);
    expect(screen.getByRole("link", { name: "Call" }).getAttribute("href")).toBe("tel:+442079460123");
    await user.click(screen.getByRole("button", { name: "Reached" }));
    await user.type(field(), "Paid out");
    await user.click(screen.getByRole("button", { name: "Save, and done" }));
    await screen.findByRole("alert");
    expect(field().value).toBe("Paid out");
    await user.click(screen.getByRole("button", { name: "Save, and done" }));
    await waitFor(() => expect(put).toHaveLength(2));
    expect(put[1]).toMatchObject({ reached: true, text: "Paid out" });
    expect(put[1]?.again).toBeUndefined();
  });

  it("is rung once while the telephone system is asked", async () => {
    let rings = 0;
    let answer = () => {};
    server.answers.set("POST /api/tickets/t1/ring", () => {
      rings++;
      return fine({});
    });
    server.hold.set("POST /api/tickets/t1/ring", new Promise((done) => (answer = done)));
    const call = { phone: "+442079460123", shown: "+44 20 7946 0123", at: "2026-11-29T10:00:00Z", tries: 0 };
    await draw(server, <CallBand ticket={{ ...refund, rings: true, call }} />);
    const button = screen.getByRole<HTMLButtonElement>("button", { name: "Call" });
    await userEvent.setup({ pointerEventsCheck: 0 }).dblClick(button);
    expect(button.disabled).toBe(true);
    answer();
    await waitFor(() => expect(button.disabled).toBe(false));
    expect(rings).toBe(1);
  });
});

it("says by a word and a shape that a ticket is late", async () => {
  await draw(
    server,
    <>
      <Due at={new Date(Date.now() - 60_000).toISOString()} />
      <Due at={new Date(Date.now() + 3_600_000).toISOString()} />
      <Due at={undefined} />
    </>,
  );
  expect(screen.getByText(/^late since/).querySelector("svg")).not.toBeNull();
  expect(screen.getByText(/^due /).className).toBe("ticket-due");
});
