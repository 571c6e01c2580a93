import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ActingRule, ActingSettings } from "../../../shared/types";
import { draw } from "../../desk/drawn";
import { FakeServer, fine } from "../../desk/fake-desk";
import { ActingPage } from "./page";
import { actsFor, resultWords } from "./words";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const poor: ActingRule = {
  id: "r1",
  name: "Poor ratings",
  on: true,
  when: "rated-low",
  departments: [],
  match: "all",
  if: [],
  do: [{ kind: "tag", tag: "complaint" }],
};

let server: FakeServer;
let put: ActingSettings[];
let answer: () => ReturnType<typeof fine>;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  put = [];
  answer = () => fine({ version: "2", rules: put.at(-1)?.rules ?? [] });
  server.answers.set("GET /api/setup/acting", () =>
    fine({
      version: "1",
      rules: [poor],
      fields: ["page.url"],
      occasions: [
        { when: "waits", timed: true, do: ["say", "tag"] },
        { when: "rated-low", timed: false, do: ["tag", "ticket", "mail", "webhook"] },
      ],
    }),
  );
  server.answers.set("GET /api/setup/departments", () => fine([{ id: "b", name: "Freight" }]));
  server.answers.set("GET /api/webhooks", () => fine([]));
  server.answers.set("GET /api/setup/acting/runs?rule=r1&before=0", () => fine([]));
  server.answers.set("PUT /api/setup/acting", (body) => {
    put.push(body as ActingSettings);
    return answer();
  });
});

const button = (name: string | RegExp) => screen.getByRole("button", { name });

describe("rules that act", () => {
  it("are changed as a draft, which is marked, kept when it is refused, and saved as a whole", async () => {
    const { user } = await draw(server, <ActingPage />);
    await screen.findByRole("heading", { name: "Poor ratings" });
    await user.click(button("New"));
    await user.type(screen.getByRole("textbox", { name: "Name" }), "Long waits");
    await user.click(button("Add something to do"));
    await user.type(screen.getByRole("textbox", { name: "Tag" }), "late");
    await user.click(screen.getByRole("checkbox", { name: "Freight" }));
    expect(
      within(screen.getByRole("region", { name: "Rules that act" })).getByText("not saved"),
    ).toBeDefined();
    answer = () => ({
      status: 422,
      body: {
        code: "bad-fields",
        title: "Something is not right",
        detail: "",
        retry: false,
        fields: [{ field: "rules.1.seconds", words: "This must be between 5 seconds and a day." }],
      },
    });
    await user.click(button("Save"));
    await screen.findByText("This must be between 5 seconds and a day.");
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Name" }).value).toBe("Long waits");
    // What is wrong stands at its rule, and not at the other.
    await user.click(button(/^Poor ratings/));
    expect(screen.queryByText("This must be between 5 seconds and a day.")).toBeNull();
    answer = () => fine({ version: "2", rules: put.at(-1)?.rules ?? [] });
    await user.click(button("Save"));
    await screen.findByText("Rules saved and in effect");
    expect(put.at(-1)?.version).toBe("1");
    expect(put.at(-1)?.rules.map((r) => [r.name, r.when, r.departments, r.do])).toEqual([
      ["Poor ratings", "rated-low", [], [{ kind: "tag", tag: "complaint" }]],
      ["Long waits", "waits", ["b"], [{ kind: "tag", tag: "late" }]],
    ]);
  });

  it("are tried on past chats as they stand on screen, also when off; what was told before goes with the rule", async () => {
    const tried: unknown[] = [];
    server.answers.set("POST /api/setup/acting/try", (body) => {
      tried.push(body);
      return fine({
        chats: 285,
        most: false,
        rules: [{ id: "r1", name: "Poor ratings", times: 3, chats: 2 }],
        firing: [
          {
            ruleId: "r1",
            ruleName: "Poor ratings",
            chatId: "c1",
            visitor: "Wren",
            at: "2026-11-28T10:00:00Z",
          },
        ],
      });
    });
    const { user } = await draw(server, <ActingPage />);
    await screen.findByRole("heading", { name: "Poor ratings" });
    await user.click(screen.getByRole("checkbox", { name: "In effect" }));
    await user.click(button("Try it"));
    await screen.findByText("It would have acted in 2 of 285 chats, 3 times in all.");
    expect(screen.getByRole("link", { name: "Wren" }).getAttribute("href")).toBe("/transcripts/c1");
    expect(tried).toEqual([{ days: 30, rules: [{ ...poor, on: true }] }]);
    expect(put).toEqual([]);
    await user.type(screen.getByRole("textbox", { name: "Tag" }), "s");
    expect(screen.queryByText(/It would have acted/)).toBeNull();
  });

  it("say what they did, and why they did not", async () => {
    server.answers.set("GET /api/setup/acting/runs?rule=r1&before=0", () =>
      fine([
        {
          seq: 7,
          ruleId: "r1",
          ruleName: "Poor ratings",
          when: "rated-low",
          at: "2026-11-28T10:00:00Z",
          chatId: "c1",
          visitor: "Wren",
          over: true,
          results: [{ kind: "tag" }, { kind: "mail", why: "cannot" }, { kind: "ticket", ticket: 1012 }],
        },
      ]),
    );
    await draw(server, <ActingPage />);
    await screen.findByText("tag · email: not done, no mail is set up · ticket 1012");
  });
});

it("offers what can be done on an occasion, and keeps what a rule has", () => {
  const values = (list: { value: string }[]) => list.map((k) => k.value);
  expect(values(actsFor(["tag", "ticket"], "tag"))).toEqual(["tag", "ticket"]);
  expect(values(actsFor(["tag", "ticket"], "say"))).toEqual(["say", "tag", "ticket"]);
  expect(resultWords({ kind: "say", why: "in-a-row" })).toBe(
    "words to the visitor: not done, the last words were automatic, too",
  );
});
