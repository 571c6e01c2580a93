import { act, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { WidgetView } from "../../../shared/types";
import type { PanelStore } from "../store";
import Survey from "./survey";

const store = { key: "ferry", tokenKey: "token" } as PanelStore;
const widget = {} as WidgetView;

interface Asked {
  body: { rating: number; words: string };
  answer: (ok: boolean) => Promise<void>;
}

describe("The survey", () => {
  let asked: Asked[] = [];
  beforeEach(() => {
    asked = [];
    vi.stubGlobal("fetch", (_: string, init: { body: string }) => {
      return new Promise((resolve, reject) => {
        asked.push({
          body: JSON.parse(init.body) as Asked["body"],
          answer: (ok) =>
            act(async () => {
              if (ok) resolve({ ok: true, json: () => Promise.resolve({}) });
              else reject(new Error("no network"));
              await new Promise((done) => setTimeout(done));
            }),
        });
      });
    });
  });
  afterEach(() => vi.unstubAllGlobals());
  const shown = (said = {}) => render(<Survey store={store} chatId="1" said={said} widget={widget} />);
  const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));

  it("sends one click at once, and of two in a row the second last", async () => {
    shown();
    press("Poor");
    press("All right");
    press("Very good");
    expect(asked.map((a) => a.body.rating)).toEqual([2]);
    await asked[0]?.answer(true);
    expect(asked.map((a) => a.body.rating)).toEqual([2, 5]);
    await asked[1]?.answer(true);
    expect(screen.getByRole("status").textContent).toContain("Thank you.");
    expect(screen.getByRole("button", { name: "Very good" }).getAttribute("aria-pressed")).toBe("true");
  });

  it("keeps words that could not be sent, and sends them again", async () => {
    shown({ rating: 4 });
    const field = screen.getByRole<HTMLTextAreaElement>("textbox");
    fireEvent.input(field, { target: { value: "Quick and kind." } });
    press("Send your words");
    await asked[0]?.answer(false);
    expect(field.value).toBe("Quick and kind.");
    expect(screen.getByRole("alert").textContent).not.toBe("");
    press("Send again");
    await asked[1]?.answer(true);
    expect(asked[1]?.body).toMatchObject({ rating: 4, words: "Quick and kind." });
    expect(screen.getByRole("status").textContent).toContain("We have what you wrote");
  });

  it("does not lose words that were typed and not sent when the rating is changed", async () => {
    shown({ rating: 2, words: "Too slow" });
    const field = screen.getByRole<HTMLTextAreaElement>("textbox");
    fireEvent.input(field, { target: { value: "Too slow, but kind" } });
    press("All right");
    expect(asked[0]?.body).toMatchObject({ rating: 3, words: "Too slow" });
    await asked[0]?.answer(true);
    expect(field.value).toBe("Too slow, but kind");
    expect(screen.getByRole("button", { name: "Send your words" })).toBeTruthy();
  });
});
