import { fireEvent, screen, within, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { emptyLog, extend } from "../../shared/log";
import type { ChatView, EventView } from "../../shared/types";
import { draw, leave } from "./drawn";
import { chat, FakeServer } from "./fake-desk";
import { Script } from "./script";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const wren = (change: Partial<ChatView> = {}) =>
  chat("wren", { name: "Wren Castellane", phase: "active", ownerId: "maren", ...change });

const event = (number: number, kind: EventView["kind"], more: Partial<EventView> = {}): EventView => ({
  number,
  kind,
  at: "2026-09-17T13:33:00Z",
  side: "visitor",
  by: "v",
  name: "Wren Castellane",
  ...more,
});
const started = event(1, "started", { page: "Fares" });
const mine = (number: number, text: string): EventView =>
  event(number, "said", { side: "team", by: "maren", name: "Maren Holt", text });

const server = new FakeServer();
beforeEach(() => localStorage.clear());

const script = (events: EventView[], more: Partial<Parameters<typeof Script>[0]> = {}) =>
  draw(
    server,
    <Script
      chat={wren()}
      log={extend(emptyLog, events).log}
      unsent={[]}
      meId="maren"
      visitorHere
      {...more}
    />,
  );
const log = () => screen.getByRole("log", { name: "Conversation with Wren Castellane" });
const receipt = () => log().querySelector(".receipt")?.textContent;

describe("words by text message", () => {
  const byText = (number: number, text: string) => ({
    ...mine(number, text),
    way: { kind: "text" as const },
  });
  const wrote = event(1, "started", { way: { kind: "text" } });

  it("are delivered, or not with the reason, and nobody waits for a return", async () => {
    const gone = { visitorHere: false };
    await script([wrote, event(2, "said", { text: "Is it on time?" }), byText(3, "It is.")], gone);
    expect(receipt()).toBe("Sent");
    expect(log().textContent).toContain("Wren Castellane wrote by text message");
    leave();
    await script([wrote, byText(2, "It is.")], {
      ...gone,
      chat: wren({ byVisitor: { delivered: 2, seen: 0 } }),
    });
    expect(receipt()).toBe("Delivered");
    leave();
    const why = event(3, "not-delivered", { side: "house", upTo: 2, text: "There is no such number." });
    await script([wrote, byText(2, "It is."), why], gone);
    await within(log()).findByText(/A message was not delivered: .*There is no such number[^.]*$/);
    // Below a line about it that came after, it says which message it is about.
    await waitFor(() => expect(receipt()).toBe("Last message: not delivered"));
  });
});

describe("days", () => {
  it("are told where a conversation goes over one, and at its start when that is not today", async () => {
    await script([
      started,
      event(2, "said", { text: "Is there a ramp?" }),
      { ...mine(3, "Yes, midships."), at: "2026-09-18T08:00:00Z" },
      { ...mine(4, "And a lift."), at: "2026-09-18T08:01:00Z" },
    ]);
    expect([...log().querySelectorAll(".day")].map((d) => d.textContent)).toEqual(
      ["Thursday, 17 September 2026".replace(",", ""), "Friday, 18 September 2026".replace(",", "")].map(
        (d) => expect.stringContaining(d.split(" ").slice(1).join(" ")),
      ),
    );
    leave();
    const now = new Date().toISOString();
    await script([
      { ...started, at: now },
      { ...mine(2, "Hello"), at: now },
    ]);
    expect(log().querySelector(".day")).toBeNull();
  });
});

describe("what was said", () => {
  it("stands with who said it, and what happened stands between", async () => {
    await script([
      started,
      event(2, "said", { text: "Is there a ramp?" }),
      event(3, "taken", { side: "team", by: "maren", name: "Maren Holt" }),
      mine(4, "Yes, midships."),
      event(5, "noted", { side: "team", by: "idris", name: "Idris Vane", text: "She was here before" }),
    ]);
    expect(log().textContent).toContain("Wren Castellane started a chat on Fares");
    expect(within(log()).getByText("Yes, midships.").closest(".say")?.textContent).toContain("You");
    const note = within(log()).getByText("She was here before").closest(".say");
    expect(note?.textContent).toContain("Note to team");
    expect(note?.className).toContain("note");
  });

  it("by a visitor is never markup, and its links are safe to follow", async () => {
    await script([
      started,
      event(2, "said", { text: '<img src=x onerror="alert(1)"> see https://example.com/a?b=1&c=2.' }),
    ]);
    expect(log().querySelector("img")).toBeNull();
    const link = within(log()).getByRole("link");
    expect(link.getAttribute("href")).toBe("https://example.com/a?b=1&c=2");
    expect(link.getAttribute("rel")).toContain("noopener");
  });

  it("and corrected shows what it was and what it is; withdrawn words stay readable for the team alone", async () => {
    await script([
      started,
      mine(2, "Gate 3"),
      event(3, "corrected", { side: "team", by: "maren", upTo: 2, text: "Gate 4" }),
      mine(4, "A secret"),
      event(5, "withdrawn", { side: "team", by: "maren", upTo: 4 }),
      event(6, "said", { text: "My card number" }),
      event(7, "withdrawn", { upTo: 6 }),
    ]);
    const corrected = within(log()).getByText("Gate 4").closest(".say");
    expect(corrected?.querySelector("s")?.textContent).toBe("Gate 3");
    expect(corrected?.textContent).toContain("Corrected");
    const withdrawn = within(log()).getByText("A secret");
    expect(withdrawn.tagName).toBe("S");
    expect(withdrawn.closest(".say")?.textContent).toContain("You withdrew this");
    expect(within(log()).queryByText("My card number")).toBeNull();
    expect(log().textContent).toContain("Message withdrawn");
  });
});

describe("how far my words came", () => {
  const words = [started, mine(2, "Yes.")];

  it.each([
    ["sent", {}, true, "Sent"],
    ["there", { delivered: 2, seen: 0 }, true, "Delivered, not seen yet"],
    ["read", { delivered: 2, seen: 2 }, true, "Seen"],
    ["waiting for who left", {}, false, "Waiting for the visitor to return"],
  ])("is told: %s", async (_, mark, here, expected) => {
    await script(words, {
      chat: wren({ byVisitor: { delivered: 0, seen: 0, ...mark } }),
      visitorHere: here,
    });
    expect(receipt()).toBe(expected);
  });

  it("is not told any more once they are answered or withdrawn", async () => {
    await script([...words, event(3, "said", { text: "Thanks" })]);
    expect(receipt()).toBeUndefined();
    leave();
    await script([...words, event(3, "withdrawn", { side: "team", by: "maren", upTo: 2 })]);
    expect(receipt()).toBeUndefined();
  });

  it("is told of the last words, with a note after them", async () => {
    await script([...words, event(3, "noted", { side: "team", by: "maren", text: "x" })]);
    expect(receipt()).toBe("Last message: sent");
  });
});

describe("words that are not there yet", () => {
  const unsent = (problem?: object) => [
    {
      clientId: "c1",
      chatId: "wren",
      text: "On its way",
      at: "2026-09-17T13:34:00Z",
      ...(problem ? { problem } : {}),
    },
  ];

  it("say that they are being sent, or that they wait for the connection", async () => {
    await script([started], { unsent: unsent() as never });
    expect(within(log()).getByText("Sending")).toBeTruthy();
    leave();
    await script([started], { unsent: unsent() as never, connected: false });
    expect(within(log()).getByText("Kept; goes out when you are connected")).toBeTruthy();
  });

  it("that were refused say why and can be written anew", async () => {
    const anew = vi.fn();
    const { user } = await script([started], {
      unsent: unsent({ title: "The chat has ended", detail: "Copy it.", code: "ended" }) as never,
      onAnew: anew,
    });
    expect(within(log()).getByRole("alert").textContent).toContain("Not sent. The chat has ended. Copy it.");
    await user.click(screen.getByRole("button", { name: "Edit and resend" }));
    expect(anew).toHaveBeenCalledWith("c1");
  });

  it("are not shown twice when the log has them already", async () => {
    await script([started, { ...mine(2, "On its way"), clientId: "c1" }], { unsent: unsent() as never });
    expect(within(log()).getAllByText("On its way")).toHaveLength(1);
  });

  it("that are files show how far they are, can be given up, and tried again", async () => {
    const [again, cancel] = [vi.fn(), vi.fn()];
    const { user } = await script([started], {
      uploads: [
        { clientId: "u1", name: "plan.pdf", size: 10, share: 0.4, trouble: "" },
        { clientId: "u2", name: "film.mp4", size: 10, share: 0, trouble: "No connection." },
      ],
      onUploadAgain: again,
      onUploadCancel: cancel,
    });
    const bar = await screen.findByRole("progressbar", { name: "Sending plan.pdf" });
    expect(bar.getAttribute("aria-valuenow")).toBe("40");
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    expect(cancel).toHaveBeenCalledWith("u1");
    await user.click(screen.getByRole("button", { name: "Try again" }));
    expect(again).toHaveBeenCalledWith("u2");
    await user.click(screen.getByRole("button", { name: "Discard" }));
    expect(cancel).toHaveBeenLastCalledWith("u2");
  });
});

describe("a long conversation", () => {
  const many = [
    started,
    ...Array.from({ length: 300 }, (_, i) => event(i + 2, "said", { text: `line ${i + 1}` })),
  ];

  it("draws its end, and more when somebody reads further up", async () => {
    await script(many);
    expect(within(log()).getByText("line 300")).toBeTruthy();
    expect(within(log()).queryByText("line 200")).toBeNull();
    const before = log().querySelectorAll(".say").length;
    Object.defineProperties(log(), { scrollHeight: { value: 3000 }, clientHeight: { value: 500 } });
    log().scrollTop = 200;
    fireEvent.scroll(log());
    expect(log().querySelectorAll(".say").length).toBe(before + 40);
    expect(within(log()).getByText("line 200")).toBeTruthy();
  });

  it("is there from its beginning as a transcript", async () => {
    await script(many, { wide: true });
    expect(within(log()).getByText("line 1")).toBeTruthy();
  });
});

describe("the menu of a message", () => {
  it("is offered for what stands, not for what was withdrawn", async () => {
    const more = vi.fn();
    const events = [
      started,
      mine(2, "Yes."),
      mine(3, "No."),
      event(4, "withdrawn", { side: "team", by: "maren", upTo: 3 }),
    ];
    const { user } = await script(events, { onMore: more });
    const buttons = within(log()).getAllByRole("button", { name: /More for the message/ });
    expect(buttons).toHaveLength(1);
    await user.click(buttons[0] as HTMLElement);
    expect(more).toHaveBeenCalledWith(expect.objectContaining({ number: 2 }), buttons[0]);
  });
});

describe("a long name", () => {
  it("is cut beside the words and whole for who points at it", async () => {
    await script([
      started,
      event(2, "said", { text: "Hello", name: "Maximiliana Brandt" }),
      event(3, "said", { text: "Hello", name: "Philippa Grange" }),
    ]);
    expect(within(log()).getByTitle("Maximiliana Brandt").textContent).toBe("Maximil…");
    expect(within(log()).getByTitle("Philippa Grange").textContent).toBe("Philippa");
  });
});
