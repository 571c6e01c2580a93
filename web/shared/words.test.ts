import { expect, it } from "vitest";

import { stands } from "../widget/stands";
import { aboutMinutes, characters, clock, initials } from "./format";
import { pieces } from "./words";

const links = (text: string) =>
  pieces(text)
    .filter((p) => p.href)
    .map((p) => p.href);

it("makes links of web addresses and of nothing else", () => {
  expect(links("see https://example.com/a?b=1#c.")).toEqual(["https://example.com/a?b=1#c"]);
  expect(links("(at www.example.org/x_(y)), or not")).toEqual(["https://www.example.org/x_(y)"]);
  expect(links("http://127.0.0.1:8080/desk")).toEqual(["http://127.0.0.1:8080/desk"]);
  for (const harmless of [
    "javascript:alert(1)",
    "data:text/html,<script>",
    "https://",
    "no.link here",
    "HTTPS:/x",
    "file:///etc/passwd",
  ]) {
    expect(links(harmless), harmless).toEqual([]);
  }
});

it("loses no character of what was written", () => {
  for (const text of [
    "",
    "a https://example.com b",
    "https://a.b,https://c.d!",
    "וכן https://example.com/ש סוף",
    "<b>",
  ]) {
    expect(
      pieces(text)
        .map((p) => p.text)
        .join(""),
    ).toBe(text);
  }
});

it("counts characters as the server does", () => {
  expect(characters("é")).toBe(1);
  expect(characters("🚢")).toBe(1);
  expect(characters("👩‍👧")).toBe(3); // code points, as Go counts runes
});

it("shows clocks, initials and who is in", () => {
  expect(clock(-5)).toBe("0:00");
  expect(clock(59_999)).toBe("0:59");
  expect(clock(3_600_000)).toBe("1:00:00");
  expect(initials("Maren Holt")).toBe("MH");
  expect(initials("Runa (night shift)")).toBe("RS");
  expect(initials("Ærø")).toBe("Æ");
  expect(initials("")).toBe("?");
});

it("says who is in, in the words of the widget", () => {
  const words = {
    locale: "en-GB",
    "stands.leave": "Leave a message",
    "stands.back": "Back {when}",
    "stands.none": "The team is in",
    "stands.one": "{name} is in",
    "stands.two": "{name} and {other} are in",
    "stands.manyBusy": "{name} and {count} others are in, all busy",
  };
  expect(stands(words, { state: "closed", in: [] })).toBe("Leave a message");
  expect(stands(words, { state: "closed", in: [], opensAt: "2026-09-21T06:00:00Z" })).toMatch(/^Back Mon/);
  expect(stands(words, { state: "open", in: [] })).toBe("The team is in");
  expect(stands(words, { state: "open", in: ["Maren"] })).toBe("Maren is in");
  expect(stands(words, { state: "open", in: ["Maren", "Idris"] })).toBe("Maren and Idris are in");
  expect(stands(words, { state: "busy", in: ["Maren", "Idris", "Tove"] })).toBe(
    "Maren and 2 others are in, all busy",
  );
});

it("promises no more about a wait than anybody can keep", () => {
  expect(aboutMinutes(30)).toBe("about a minute");
  expect(aboutMinutes(90)).toBe("about 2 minutes");
  expect(aboutMinutes(3600)).toBe("about 60 minutes");
  expect(aboutMinutes(3601)).toBe("more than an hour");
});
