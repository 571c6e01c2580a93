import { readFileSync } from "node:fs";

import { beforeAll, expect, it } from "vitest";

import type { EventView } from "../../shared/types";
import { kindNames, kindOf, laterKinds, wordsOf } from "./happened";

const event = (kind: string, change: Partial<EventView> = {}): EventView => ({
  number: 3,
  kind: kind as EventView["kind"],
  at: "2026-09-17T13:35:00Z",
  side: "team",
  by: "maren",
  name: "Maren Holt",
  ...change,
});
beforeAll(laterKinds);

const of = { startedAt: "2026-09-17T13:33:00Z", meId: "idris", visitor: "Wren" };

it("knows how each kind of event looks that the server can send, and no others", () => {
  const document = JSON.parse(readFileSync("shared/openapi.json", "utf8")) as {
    components: { schemas: { EventView: { properties: { kind: { enum: string[] } } } } };
  };
  expect(kindNames().sort()).toEqual([...document.components.schemas.EventView.properties.kind.enum].sort());
});

it("shows nothing of a kind that only a newer server knows", () => {
  expect(kindOf(event("from-the-future")).look).toBe("beside");
  expect(wordsOf(event("from-the-future"), of)).toBe("");
});

it("tells a wait that is over as the transcript's figures do, to the nearest second", () => {
  const words = (at: string) => wordsOf(event("taken", { at }), of);
  expect(words("2026-09-17T13:33:04.600Z")).toMatch(/after 0:05$/);
  expect(words("2026-09-17T13:33:04.400Z")).toMatch(/after 0:04$/);
});

it("says in whole sentences what I did, and what others did", () => {
  expect(wordsOf(event("taken"), of)).toBe("Maren Holt took this chat after 2:00");
  expect(wordsOf(event("taken"), { ...of, meId: "maren" })).toBe("You took this chat after 2:00");
  expect(wordsOf(event("routed", { to: "Freight" }), of)).toBe("Sent to Freight");
  expect(wordsOf(event("started", { side: "visitor", page: "Fares" }), of)).toBe(
    "Wren started a chat on Fares",
  );
  expect(wordsOf(event("started", { side: "visitor" }), { ...of, visitor: "" })).toBe(
    "A visitor started a chat",
  );
});
