import { expect, it } from "vitest";

import { characters, clock, initials, whoIsIn } from "./format";
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
  expect(initials("Ærø")).toBe("Æ");
  expect(initials("")).toBe("?");
  expect(whoIsIn([])).toBe("Nobody is in right now");
  expect(whoIsIn(["Maren", "Idris"])).toBe("Maren and Idris are in");
  expect(whoIsIn(["Maren", "Idris", "Tove"])).toBe("Maren and 2 others are in");
});
