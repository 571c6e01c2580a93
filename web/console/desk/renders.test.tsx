import { act, screen } from "@testing-library/react";
import { Profiler, type ComponentType } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { eventually } from "../../shared/eventually";
import { DeskPage } from "./desk";
import { draw, leave } from "./drawn";
import { chat, FakeServer, fine, place, said } from "./fake-desk";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

/** How often each part was drawn since the test last forgot. */
const drawn = vi.hoisted(() => new Map<string, number>());

/** Counts the renders of a component and of all within it, by what it shows. */
const counted = vi.hoisted(
  () =>
    function counted<P extends { id?: string; chat?: { id: string } }>(name: string, Real: ComponentType<P>) {
      return function Counted(props: P) {
        const id = `${name} ${props.id ?? props.chat?.id ?? ""}`;
        return (
          <Profiler id={id} onRender={() => drawn.set(id, (drawn.get(id) ?? 0) + 1)}>
            <Real {...props} />
          </Profiler>
        );
      };
    },
);

vi.mock("./lane", async (original) => {
  const real = await original<typeof import("./lane")>();
  return { ...real, Lane: counted("lane", real.Lane) };
});
vi.mock("./line-cards", async (original) => {
  const real = await original<typeof import("./line-cards")>();
  return {
    ...real,
    MyCard: counted("card", real.MyCard),
    WaitingCard: counted("waiting", real.WaitingCard),
  };
});

const mine = (id: string) =>
  chat(id, { phase: "active", ownerId: "maren", ownerName: "Maren Holt", last: 2 });

beforeEach(() => {
  localStorage.clear();
  drawn.clear();
  // What ticks draws anew each second, whatever comes in between.
  const every = setInterval;
  vi.stubGlobal("setInterval", (doing: () => void, pause: number) =>
    pause === 1000 ? undefined : every(doing, pause),
  );
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(1400);
});
afterEach(() => {
  leave();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

it("draws one lane and its card for a message, and nothing else", async () => {
  const server = new FakeServer();
  const chats = ["wren", "oskar", "tilda", "bram"].map(mine);
  server.desk.chats = [...chats, chat("ines"), chat("jon")];
  server.desk.preferences = { aboutOpen: false };
  server.answers.set("/api/translator", fine({ languages: [], shownSoon: false }));
  for (const c of chats) {
    server.answers.set(`/api/chats/${c.id}?after=0`, {
      status: 200,
      body: { chat: c, place: place(c.visitorId), events: [said(1, "Hello"), said(2, "Is there room?")] },
    });
  }
  const { live, store } = await draw(server, <DeskPage />);
  await screen.findByRole("button", { name: "Move lane 4" });
  for (const c of chats) await eventually(() => expect(store.scripts.has(c.id)).toBe(true));
  // What comes later than the lanes is there, too: it would count as a drawing.
  await eventually(() => expect(server.asked).toContain("/api/translator"));
  const frame = () => act(() => new Promise((done) => requestAnimationFrame(() => setTimeout(done))));
  await frame();
  drawn.clear();
  live.arrives({
    type: "chat",
    chat: { ...mine("oskar"), last: 3, lastWords: "With a van." },
    events: [said(3, "With a van.")],
  });
  await frame();
  expect((await screen.findAllByText("With a van.")).length).toBe(2); // in the lane and on the card
  expect(Object.fromEntries(drawn)).toEqual({ "lane oskar": 1, "card oskar": 1 });
  drawn.clear();
  live.arrives({ type: "draft", chatId: "wren", text: "and a d" });
  live.arrives({ type: "draft", chatId: "wren", text: "and a dog" });
  await frame();
  expect(Object.fromEntries(drawn)).toEqual({ "lane wren": 1, "card wren": 1 });
});
