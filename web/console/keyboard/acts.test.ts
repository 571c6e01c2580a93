import { describe, expect, it, vi } from "vitest";

import { actOf, acts, hintOf } from "./acts";
import { Registry } from "./keyboard";

function key(code: string, held: Partial<KeyboardEventInit> & { altGraph?: boolean } = {}): KeyboardEvent {
  const event = new KeyboardEvent("keydown", { code, key: code.slice(-1), ...held });
  vi.spyOn(event, "getModifierState").mockImplementation((m) => m === "AltGraph" && held.altGraph === true);
  return event;
}

describe("keys", () => {
  it("call one act each", () => {
    const keys = acts.filter((a) => a.code).map((a) => `${a.shift ? "shift " : ""}${a.code}`);
    expect(new Set(keys).size).toBe(keys.length);
    expect(new Set(acts.map((a) => a.id)).size).toBe(acts.length);
  });

  it("leave the browser's own alone", () => {
    // Alt with these is the address bar, menus, the way back or home in common browsers.
    const taken = [
      "KeyB",
      "KeyD",
      "KeyE",
      "KeyF",
      "KeyH",
      "KeyS",
      "KeyT",
      "KeyV",
      "Space",
      "ArrowLeft",
      "ArrowRight",
      "Home",
      "F4",
      "Tab",
    ];
    expect(acts.filter((a) => a.code && taken.includes(a.code))).toEqual([]);
  });

  it("are told apart from characters that need AltGr", () => {
    expect(actOf(key("KeyN", { altKey: true }))?.id).toBe("take-next");
    expect(actOf(key("KeyN", { altKey: true, altGraph: true }))).toBeUndefined();
    expect(actOf(key("KeyN", { altKey: true, ctrlKey: true }))).toBeUndefined();
    expect(actOf(key("KeyN"))).toBeUndefined();
    expect(actOf(key("KeyN", { altKey: true, isComposing: true }))).toBeUndefined();
  });

  it("type characters on a Mac, where other keys call acts", () => {
    expect(actOf(key("KeyL", { altKey: true }), true)).toBeUndefined(); // types @ on a German one
    expect(actOf(key("KeyN", { ctrlKey: true, shiftKey: true }), true)?.id).toBe("take-next");
    expect(hintOf("take-next", true)).toBe("⌃⇧N");
  });

  it("are the same places on every layout", () => {
    // On a Dvorak layout the key at N's place types B.
    expect(actOf(new KeyboardEvent("keydown", { code: "KeyN", key: "b", altKey: true }))?.id).toBe(
      "take-next",
    );
    expect(actOf(new KeyboardEvent("keydown", { code: "KeyT", key: "k", ctrlKey: true }))?.id).toBe(
      "palette",
    );
  });
});

it("does what was offered last, and nothing after it is gone", () => {
  const registry = new Registry();
  const done: string[] = [];
  registry.offer("end", () => done.push("first"));
  const withdraw = registry.offer("end", () => done.push("second"));
  expect(registry.run("end")).toBe(true);
  withdraw();
  expect(registry.run("end")).toBe(true);
  expect(registry.run("ban")).toBe(false);
  expect(done).toEqual(["second", "first"]);
});
