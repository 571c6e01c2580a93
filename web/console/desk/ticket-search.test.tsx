import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { row } from "../tickets/fake-tickets";
import { draw } from "./drawn";
import { FakeServer, fine, refused } from "./fake-desk";
import { TicketSearch } from "./ticket-search";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

describe("a ticket looked for from a chat", () => {
  it("is one of the visitor's where nothing was typed, and is linked by one press", async () => {
    server.answers.set("GET /api/tickets?like=c1&status=all", () => fine({ total: 1, tickets: [row(7)] }));
    const link = vi.fn(() => fine(undefined));
    server.answers.set("PUT /api/tickets/t7/chats/c1", link);
    const linked = vi.fn();
    const { user } = await draw(server, <TicketSearch chatId="c1" words="" onLinked={linked} />);
    await user.click(await screen.findByRole("button", { name: "Link the chat" }));
    await screen.findByText("The chat is linked with ticket 7");
    expect(link).toHaveBeenCalledTimes(1);
    expect(linked).toHaveBeenCalledTimes(1);
  });

  it("says that nothing was found", async () => {
    server.answers.set("GET /api/tickets?words=zeppelin&status=all&order=updated", () =>
      fine({ total: 0, tickets: [] }),
    );
    await draw(server, <TicketSearch chatId="c2" words="zeppelin" onLinked={() => undefined} />);
    await screen.findByText("No matches.");
  });

  it("says why it could not be linked", async () => {
    server.answers.set("GET /api/tickets?words=refund&status=all&order=updated", () =>
      fine({ total: 1, tickets: [row(7)] }),
    );
    server.answers.set("PUT /api/tickets/t7/chats/c1", () => refused("It is merged"));
    const linked = vi.fn();
    const { user } = await draw(server, <TicketSearch chatId="c1" words="refund" onLinked={linked} />);
    await user.click(await screen.findByRole("button", { name: "Link the chat" }));
    await screen.findByText(/It is merged/);
    expect(linked).not.toHaveBeenCalled();
  });
});
