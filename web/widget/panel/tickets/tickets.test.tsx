import { act, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { OwnTicket } from "../../../shared/types";
import type { PanelStore } from "../store";
import Tickets from "./tickets";

const store = { key: "ferry", tokenKey: "token" } as PanelStore;
const refund: OwnTicket = {
  id: "t1",
  number: 1001,
  title: "Refund",
  status: "customer",
  said: [{ number: 1, at: "2026-11-29T10:00:00Z", mine: false, name: "Maren", text: "It is paid out." }],
};

interface Asked {
  path: string;
  body: { text?: string; clientId?: string };
  answer: (list?: OwnTicket[]) => Promise<void>;
}

describe("what the team still does for a visitor", () => {
  let asked: Asked[] = [];
  beforeEach(() => {
    localStorage.clear();
    asked = [];
    Element.prototype.scrollIntoView = () => undefined;
    vi.stubGlobal("fetch", (path: string, init: { body: string }) => {
      return new Promise((resolve, reject) => {
        asked.push({
          path,
          body: JSON.parse(init.body) as Asked["body"],
          answer: (list) =>
            act(async () => {
              if (list) resolve({ ok: true, json: () => Promise.resolve(list) });
              else reject(new Error("no network"));
              await new Promise((done) => setTimeout(done));
            }),
        });
      });
    });
  });
  afterEach(() => vi.unstubAllGlobals());
  const open = async () => {
    render(<Tickets store={store} />);
    await asked[0]?.answer([refund]);
    fireEvent.click(screen.getByRole("button", { name: /1001: Refund/ }));
  };
  const write = (text: string) => fireEvent.change(screen.getByRole("textbox"), { target: { value: text } });
  const send = () => fireEvent.click(screen.getByRole("button", { name: "Send" }));

  it("says how it stands, and shows what was said once it is opened", async () => {
    render(<Tickets store={store} />);
    await asked[0]?.answer([refund]);
    expect(screen.getByText("We have answered")).toBeTruthy();
    expect(screen.queryByText("It is paid out.")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: /1001: Refund/ }));
    expect(screen.getByText("It is paid out.")).toBeTruthy();
  });

  it("keeps words that could not be sent, and sends them again as the same ones", async () => {
    await open();
    write("Nothing has come");
    send();
    await asked[1]?.answer();
    expect(screen.getByRole<HTMLTextAreaElement>("textbox").value).toBe("Nothing has come");
    send();
    expect(asked[2]?.body).toMatchObject({ text: "Nothing has come", clientId: asked[1]?.body.clientId });
    await asked[2]?.answer([{ ...refund, status: "us" }]);
    expect(screen.getByRole<HTMLTextAreaElement>("textbox").value).toBe("");
    expect(screen.getByText("We are working on it")).toBeTruthy();
  });

  it("keeps a draft over a reload", async () => {
    await open();
    write("Half a sen");
    expect(Object.values(localStorage)).toContain("Half a sen");
  });

  it("says when it is called, and calls it off", async () => {
    render(<Tickets store={store} />);
    await asked[0]?.answer([{ ...refund, status: "open", callAt: "2026-11-30T09:00:00Z" }]);
    fireEvent.click(screen.getByRole("button", { name: /We call you/ }));
    fireEvent.click(screen.getByRole("button", { name: "No call, please" }));
    expect(asked[1]?.path).toBe("/widget/ferry/tickets/t1/call-off");
    await asked[1]?.answer([{ ...refund, status: "done" }]);
    expect(screen.queryByRole("button", { name: "No call, please" })).toBeNull();
    expect(screen.getByText("Done")).toBeTruthy();
  });
});
