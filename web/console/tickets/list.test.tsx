import { screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { Bulk } from "./bulk";
import { row } from "./fake-tickets";
import { FindTicket } from "./find";
import { Make } from "./make";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("several tickets at once", () => {
  it("are changed together, and those that could not be are named", async () => {
    const sent: unknown[] = [];
    server.answers.set("POST /api/tickets/many", (body) => {
      sent.push(body);
      return sent.length === 1
        ? fine({ done: 1, failed: [{ id: "t2", number: 2, title: "It is merged" }] })
        : fine({ done: 2, failed: [] });
    });
    const done = vi.fn();
    const { user } = await draw(server, <Bulk picked={[row(1), row(2)]} done={done} />);
    await user.click(button("Status"));
    await user.click(await screen.findByRole("menuitem", { name: /done/i }));
    await screen.findByText("These stayed as they were: 2");
    expect(done).not.toHaveBeenCalled();
    await user.click(button("Add tag"));
    const dialog = await screen.findByRole("dialog");
    await user.type(within(dialog).getByRole("textbox"), "spring{Enter}");
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(sent).toEqual([
      { ids: ["t1", "t2"], change: { status: "done" } },
      { ids: ["t1", "t2"], change: { addTags: ["spring"] } },
    ]);
  });

  it("go on in the oldest, after it is said what that does and that their customers differ", async () => {
    const merged: string[] = [];
    for (const id of ["t2", "t3"])
      server.answers.set(`POST /api/tickets/${id}/merge`, (body) => {
        merged.push(`${id} into ${(body as { into: string }).into}`);
        return merged.length === 2 ? refused("Out of order") : fine(row(1));
      });
    const { user } = await draw(
      server,
      <Bulk picked={[row(3, { email: "oskar@example.com" }), row(1), row(2)]} done={() => undefined} />,
    );
    await user.click(button("Merge"));
    const dialog = await screen.findByRole("dialog");
    expect(dialog.textContent).toContain("Merge 3, 2 into 1?");
    expect(within(dialog).getByRole("alert").textContent).toContain("wren@example.com");
    await user.click(within(dialog).getByRole("button", { name: "Merge" }));
    // The second one failed: asked again, the first is no trouble, since the server takes it twice.
    await within(dialog).findByText(/Out of order/);
    await user.click(within(dialog).getByRole("button", { name: "Merge" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(merged).toEqual(["t3 into t1", "t2 into t1", "t3 into t1", "t2 into t1"]);
  });
});

describe("a new ticket", () => {
  const draft = {
    title: "Refund",
    department: "help",
    name: "Wren",
    email: "wren@example.com",
    phone: "",
    mails: true,
    tags: ["refund"],
    tickets: [row(7)],
    due: {},
  };

  it("has what is known, keeps a note that was not sent, and is sent again as the same one", async () => {
    server.answers.set("GET /api/tickets/draft?chat=c1&message=0", () => fine(draft));
    server.answers.set("GET /api/tickets/draft?chat=c1&message=0&department=help", () => fine(draft));
    const sent: { clientId: string; note: string }[] = [];
    server.answers.set("POST /api/tickets", (body) => {
      sent.push(body as (typeof sent)[number]);
      return sent.length === 1
        ? refused("Out of order")
        : fine({ ...row(9), events: [], chats: [], fields: [] });
    });
    const made = vi.fn();
    const { user } = await draw(
      server,
      <Routes>
        <Route path="*" element={<Make chatId="c1" onClose={() => undefined} onMade={made} />} />
      </Routes>,
    );
    expect(await screen.findByDisplayValue("Refund")).toBeDefined();
    expect(screen.getByRole("link", { name: /7: Ticket of 7/ })).toBeDefined();
    await user.type(screen.getByRole("textbox", { name: "Note for the team" }), "Paid twice");
    await user.click(button("Make ticket"));
    await screen.findByText(/Out of order/);
    expect(screen.getByDisplayValue("Paid twice")).toBeDefined();
    await user.click(button("Make ticket"));
    await waitFor(() => expect(made).toHaveBeenCalled());
    expect(sent[1]).toEqual(sent[0]);
    expect(sent[0]).toMatchObject({
      chatId: "c1",
      title: "Refund",
      note: "Paid twice",
      receipt: true,
      tags: ["refund"],
    });
  });
});

it("is found by words, without the one from which it is looked for", async () => {
  server.answers.set("GET /api/tickets?words=refund&status=all&order=updated", () =>
    fine({ total: 2, tickets: [row(1), row(2, { ownerName: "Idris Vane" })] }),
  );
  const chosen = vi.fn();
  const { user } = await draw(server, <FindTicket without="t1" verb="This one" choose={chosen} />);
  await user.type(screen.getByRole("textbox"), " refund ");
  await user.click(await screen.findByRole("button", { name: "This one" }));
  expect(chosen).toHaveBeenCalledWith(expect.objectContaining({ number: 2 }));
});
