import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { DeliveryView, WebhookView } from "../../../shared/types";
import { draw } from "../../desk/drawn";
import { FakeServer, fine, refused } from "../../desk/fake-desk";
import { WebhooksPage } from "./page";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const hook = (change: Partial<WebhookView> = {}): WebhookView => ({
  id: "w1",
  version: 3,
  name: "Records",
  url: "https://records.example/hook",
  kinds: ["ended"],
  departments: [],
  secret: "whsec_abc",
  waiting: 0,
  dropped: 0,
  ...change,
});

const told = (change: Partial<DeliveryView> = {}): DeliveryView => ({
  id: "d1",
  seq: 1,
  kind: "ended",
  chatId: "c1",
  body: '{"type":"chat.ended"}',
  createdAt: "2026-11-29T10:00:00Z",
  tries: 1,
  ...change,
});

let server: FakeServer;
let list: WebhookView[];
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  list = [hook()];
  server.answers.set("GET /api/webhooks", () => fine(list));
  server.answers.set("GET /api/setup/departments", () => fine([{ id: "b", name: "Freight" }]));
  server.answers.set("GET /api/webhooks/w1/deliveries?which=all&before=0", () => fine([]));
});

const button = (name: string | RegExp) => screen.getByRole("button", { name });
const there = () => screen.findByRole("heading", { name: "Records" });

describe("webhooks", () => {
  it("keep what was typed where saving is refused, and are saved with the version that was read", async () => {
    const put: WebhookView[] = [];
    server.answers.set("PUT /api/webhooks", (body) => {
      put.push(body as WebhookView);
      return put.length === 1
        ? refused("Out of order")
        : fine(hook({ version: 4, url: "https://new.example/hook" }));
    });
    const { user } = await draw(server, <WebhooksPage />);
    await there();
    const address = screen.getByRole<HTMLInputElement>("textbox", { name: "Address" });
    await user.clear(address);
    await user.type(address, "https://new.example/hook");
    await user.click(screen.getByRole("checkbox", { name: "Freight" }));
    await user.click(button("Save"));
    await screen.findByText(/Out of order/);
    expect(address.value).toBe("https://new.example/hook");
    await user.click(button("Save"));
    await screen.findByText("Records saved");
    expect(put[1]).toEqual(put[0]);
    expect(put[0]).toMatchObject({ id: "w1", version: 3, kinds: ["ended"], departments: ["b"] });
    expect(put[0]?.secret).toBeUndefined();
  });

  it("that keep failing say so, and go on when somebody says so", async () => {
    list = [hook({ pausedAt: "2026-11-29T09:00:00Z", waiting: 4 })];
    const resume = vi.fn(() => {
      list = [hook()];
      return fine(list[0]);
    });
    server.answers.set("POST /api/webhooks/w1/resume", resume);
    const { user } = await draw(server, <WebhooksPage />);
    await there();
    expect(screen.getByText("paused, it keeps failing")).toBeDefined();
    await user.click(within(screen.getByRole("alert")).getByRole("button", { name: "Try again now" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    expect(resume).toHaveBeenCalledTimes(1);
  });

  it("are deleted after a question, and only then", async () => {
    const remove = vi.fn(() => {
      list = [];
      return fine(undefined);
    });
    server.answers.set("DELETE /api/webhooks/w1", remove);
    const { user } = await draw(server, <WebhooksPage />);
    await there();
    await user.click(button("Delete"));
    await screen.findByText("Delete it with its log?");
    expect(remove).not.toHaveBeenCalled();
    await user.click(button(/^(Delete|Yes)/));
    await waitFor(() => expect(remove).toHaveBeenCalledTimes(1));
    await screen.findByRole("heading", { name: "New webhook" });
  });

  it("have a log in words, in which one is read and sent again", async () => {
    server.answers.set("GET /api/webhooks/w1/deliveries?which=all&before=0", () =>
      fine([
        told({ id: "d3", seq: 3, kind: "rule.acted", doneAt: "2026-11-29T10:00:02Z", status: 200 }),
        told({
          id: "d2",
          seq: 2,
          failed: true,
          doneAt: "2026-11-29T10:00:01Z",
          status: 503,
          answer: "closed",
        }),
        told({ chatId: undefined, kind: "test", tries: 0 } as Partial<DeliveryView>),
      ]),
    );
    const again = vi.fn(() => fine(undefined));
    server.answers.set("POST /api/webhook-deliveries/d2/again", again);
    const { user } = await draw(server, <WebhooksPage />);
    await screen.findByText("A rule acted");
    expect(screen.getByText("arrived, answered 200")).toBeDefined();
    await user.click(button(/given up, answered 503/));
    expect(screen.getByText("closed")).toBeDefined();
    await user.click(button("Send again"));
    await screen.findByText("It is sent again");
    expect(again).toHaveBeenCalledTimes(1);
    // A test never happened: it is not sent again.
    await user.click(button(/given up, answered 503/));
    await user.click(button(/^Test/));
    expect(screen.queryByRole("button", { name: "Send again" })).toBeNull();
  });
});
