import { expect, it } from "vitest";

import type { EventView } from "../../shared/types";
import { reasonWords, sentence, whyHere } from "./reasons";

const event = (number: number, kind: EventView["kind"], change: Partial<EventView> = {}): EventView => ({
  number,
  kind,
  at: "2026-09-17T13:33:00Z",
  side: "house",
  by: "",
  name: "",
  ...change,
});

const routed = event(3, "routed", {
  to: "Bookings",
  reasons: [
    { code: "rule", values: { rule: "Gold" } },
    { code: "account-owner", values: { operator: "Tove" } },
  ],
});

it("says in a sentence or two why a chat is where it is", () => {
  const assigned = event(4, "taken", {
    side: "team",
    name: "Idris",
    how: "assigned",
    reasons: [
      { code: "operator-full", values: { operator: "Tove", load: "3", capacity: "3" } },
      { code: "turn", values: { operator: "Idris" } },
    ],
  });
  expect(whyHere([routed, assigned])).toEqual([
    "Sent to Bookings (rule “Gold” and Tove looks after this customer).",
    "Assigned to Idris (Tove holds 3 of 3 chats and it was Idris’s turn).",
  ]);
  expect(whyHere([routed, event(4, "taken", { side: "team", name: "Maren" })])[1]).toBe("Maren took it.");
  const offered = event(4, "offered", {
    to: "Tove",
    reasons: [{ code: "only-one", values: { operator: "Tove" } }],
  });
  expect(whyHere([routed, offered])[1]).toBe("Offered to Tove (Tove was the only one left to ask).");
});

it("has words for every reason that the server gives, and shows a new one as it is", () => {
  const codes =
    "rule form-department default rule-operator account-owner last-operator operator-away operator-full priority department-gone operator-gone fewest turn share language only-one backup overflow overflow-seconds overflow-length overflow-closed overflow-nobody nobody-has-room nobody-available closed pick";
  for (const code of codes.split(" ")) expect(reasonWords([{ code, values: {} }])).not.toBe(code);
  expect(reasonWords([{ code: "from-the-future" }])).toBe("from-the-future");
  expect(sentence("")).toBe("");
});
