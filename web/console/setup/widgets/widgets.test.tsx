import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { DesignPreview, WidgetChoices, WidgetDesign, WidgetSettings } from "../../../shared/types";
import { draw } from "../../desk/drawn";
import { FakeServer, fine, refused } from "../../desk/fake-desk";
import { WidgetsPage } from "./page";

vi.mock("../../../shared/live", async () => {
  const { FakeLive } = await import("../../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

const design: WidgetDesign = {
  name: "Kelpwick Ferries",
  sites: ["https://www.example.com"],
  title: "Ask the ferry desk",
  greeting: "",
  closedGreeting: "",
  survey: { on: true, question: "", wordsQuestion: "", byMail: false },
  colour: "#9c3f27",
  corner: "right",
  looks: { distance: 24, size: "usual", icon: "none", faces: true, links: [], variables: {} },
  languages: ["en", "de"],
  texts: {},
  showOn: [],
  hideOn: [],
  hideClosed: false,
  departments: [],
  uninvited: false,
  help: { search: false, booking: true, order: "hand", faqs: [] },
  form: [
    { name: "topic", kind: "choice", label: "About", options: ["Booking", "Freight"] },
    { name: "email", kind: "email", label: "Email" },
  ],
  reachBy: "email",
  draftsSeen: true,
  visitorFiles: true,
  messageLimit: 2000,
  automatic: [],
  answerTargetSeconds: 60,
  goneSeconds: 60,
  helper: { when: "never", flow: "", seconds: 60 },
};
const widget = (change: Partial<WidgetSettings> = {}): WidgetSettings => ({
  id: "w1",
  key: "ferries",
  version: 3,
  off: false,
  published: true,
  design,
  ...change,
});
const choices: WidgetChoices = {
  texts: [
    { key: "start.send", texts: { en: "Start chat", de: "Chat beginnen" } },
    { key: "stands.one", texts: { en: "{name} is in", de: "{name} ist da" } },
  ],
  languages: ["en", "de", "da"],
  inChat: ["page.url", "form."],
  icons: { none: "", speech: "M2 3h12" },
  variables: [{ name: "ink", about: "Words", usual: "#241b16" }],
};
const preview: DesignPreview = {
  widget: { language: "en" } as DesignPreview["widget"],
  faqs: [],
  wrong: [],
  contrasts: [],
  own: [{ key: "title", text: "Ask the ferry desk", most: 60 }],
  missing: { de: ["title"] },
};

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
  server.answers.set("/api/setup/widgets", fine([widget()]));
  server.answers.set("/api/setup/widget-choices", fine(choices));
  server.answers.set("POST /api/setup/widget-preview", fine(preview));
});
const button = (name: string | RegExp) => screen.getByRole("button", { name });
const sent = (path: string) => server.sent.filter((s) => s.what.includes(path)).map((s) => s.body);

describe("a widget", () => {
  it("is saved as a draft or published, each with what was read, and says which is on the pages", async () => {
    const saved = {
      version: 1,
      over: 3,
      design: { ...design, title: "Ask us" },
      by: "Ansel",
      at: "2026-11-28T10:00:00Z",
    };
    server.answers.set("PUT /api/setup/widgets/ferries/draft", fine(saved));
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Words" }));
    expect(button("Publish")).toHaveProperty("disabled", true);
    const title = screen.getByLabelText("Launcher text");
    await user.clear(title);
    await user.type(title, "Ask us");
    server.answers.set("/api/setup/widgets", fine([widget({ draft: saved })]));
    await user.click(button("Save draft"));
    await screen.findByText(/Draft, saved by Ansel/);
    expect(sent("/api/setup/widgets/ferries/draft")[0]).toMatchObject({
      version: 3,
      draft: 0,
      design: { title: "Ask us" },
    });
    // What is in the draft can be published without another change.
    server.answers.set(
      "POST /api/setup/widgets/ferries/publish",
      fine(widget({ version: 4, design: saved.design })),
    );
    server.answers.set("/api/setup/widgets", fine([widget({ version: 4, design: saved.design })]));
    await user.click(button("Publish"));
    await waitFor(() =>
      expect(sent("/api/setup/widgets/ferries/publish")[0]).toMatchObject({ version: 3, draft: 1 }),
    );
    await waitFor(() => expect(screen.queryByText(/Draft, saved by/)).toBeNull());
  });

  it("keeps what was typed when a colleague was faster, and shows whose it is", async () => {
    server.answers.set(
      "POST /api/setup/widgets/ferries/publish",
      refused("Somebody else changed this", { status: 409, code: "changed", detail: "Look at it." }),
    );
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Words" }));
    await user.type(screen.getByLabelText("Launcher text"), "!");
    server.answers.set(
      "/api/setup/widgets",
      fine([widget({ version: 4, design: { ...design, title: "Theirs" } })]),
    );
    await user.click(button("Publish"));
    await user.click(await screen.findByRole("button", { name: "Keep mine" }));
    expect(screen.getByLabelText("Launcher text")).toHaveProperty("value", "Ask the ferry desk!");
    server.answers.set("POST /api/setup/widgets/ferries/publish", fine(widget({ version: 5 })));
    await user.click(button("Publish"));
    await waitFor(() =>
      expect(sent("/api/setup/widgets/ferries/publish").at(-1)).toMatchObject({ version: 4 }),
    );
  });

  it("marks the part in which something keeps it from the pages, and mends a poor colour", async () => {
    server.answers.set(
      "POST /api/setup/widget-preview",
      fine({
        ...preview,
        wrong: [
          {
            field: "hideOn",
            words:
              "With these patterns the chat would not show on any page. Take out the one that fits all of them.",
          },
        ],
        contrasts: [{ field: "colour", ratio: 1.26, mend: "#a39163" }],
      }),
    );
    const { user } = await draw(server, <WidgetsPage />);
    await screen.findByText(/contrast is 1.26 to 1/);
    await user.click(button(/Use #a39163/));
    expect(screen.getByLabelText("Colour")).toHaveProperty("value", "#a39163");
    await user.click(button(/Where and when/));
    within(button(/Where and when/)).getByText("!");
    await screen.findByText(/would not show on any page/);
  });

  it("says what is missing in a language, and keeps translations of one that is not spoken any more", async () => {
    server.answers.set(
      "/api/setup/widgets",
      fine([widget({ design: { ...design, texts: { de: { "start.send": "Los" } } } })]),
    );
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Words" }));
    await screen.findByText("1 text missing");
    await user.click(screen.getByRole("checkbox", { name: /German/ }));
    await screen.findByText(/Your translations are kept/);
    await user.click(button("Stop"));
    expect(screen.getByRole("checkbox", { name: /German/ })).toHaveProperty("checked", false);
    server.answers.set(
      "PUT /api/setup/widgets/ferries/draft",
      fine({ version: 1, over: 3, design, by: "", at: "2026-11-28T10:00:00Z" }),
    );
    await user.click(button("Save draft"));
    await waitFor(() =>
      expect(sent("/api/setup/widgets/ferries/draft")[0]).toMatchObject({
        design: { languages: ["en"], texts: { de: { "start.send": "Los" } } },
      }),
    );
  });

  it("asks a field only if another has a value, and moves and removes fields", async () => {
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Form" }));
    await user.click(button("Move Email up"));
    await user.click(button("Move Email down"));
    await user.click(button(/^Email/));
    await user.click(screen.getByRole("combobox", { name: "Asked" }));
    await user.click(screen.getByRole("option", { name: "if “About” is" }));
    await user.click(screen.getByRole("checkbox", { name: "Booking" }));
    server.answers.set(
      "PUT /api/setup/widgets/ferries/draft",
      fine({ version: 1, over: 3, design, by: "", at: "2026-11-28T10:00:00Z" }),
    );
    await user.click(button("Save draft"));
    await waitFor(() =>
      expect(sent("/api/setup/widgets/ferries/draft")[0]).toMatchObject({
        design: { form: [{ name: "topic" }, { name: "email", showIf: { field: "topic", is: ["Booking"] } }] },
      }),
    );
  });

  it("gives a try of a pattern the verdict that the visitor will get", async () => {
    server.answers.set(
      "/api/setup/widgets",
      fine([
        widget({
          design: {
            ...design,
            form: [{ name: "booking", kind: "text", label: "Booking", pattern: "KF-[0-9]{5}" }],
          },
        }),
      ]),
    );
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Form" }));
    await user.click(button(/^Booking/));
    await user.type(screen.getByLabelText("Try an answer"), "KF-2041");
    await screen.findByText("This is not accepted.");
    await user.type(screen.getByLabelText("Try an answer"), "7");
    await screen.findByText("This is accepted.");
  });

  it("says of no address what was found at another, and keeps an address typed while a mail went", async () => {
    server.answers.set(
      "/api/setup/widgets/ferries/installation",
      fine({
        snippet: "<script>",
        link: "https://stoop.example.com",
        window: "<a>",
        policy: [],
        mails: true,
      }),
    );
    let answer: () => void = () => undefined;
    let mailed: () => void = () => undefined;
    server.hold.set("POST /api/setup/widgets/ferries/check", new Promise((done) => (answer = done)));
    server.hold.set("POST /api/setup/widgets/ferries/mail", new Promise((done) => (mailed = done)));
    const at = "https://www.example.com/";
    server.answers.set(
      "POST /api/setup/widgets/ferries/check",
      fine({ address: at, findings: [{ code: "twice" }] }),
    );
    server.answers.set("POST /api/setup/widgets/ferries/mail", fine({}));
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "On the site" }));
    await user.click(await screen.findByRole("button", { name: "Check" }));
    await screen.findByRole("button", { name: "Looking" });
    await user.type(screen.getByLabelText("Look at a page"), "/freight");
    answer();
    const to = () => screen.getByLabelText("Or mail it to whoever keeps the site");
    await user.type(to(), "web@example.org");
    await user.click(button("Mail it"));
    await user.clear(to());
    await user.type(to(), "shop@example.org");
    mailed();
    await screen.findByText("On its way to web@example.org");
    expect(to()).toHaveProperty("value", "shop@example.org");
    expect(screen.queryByText("The line is there more than once")).toBeNull();
    expect(button("Check")).toHaveProperty("disabled", false);
    server.hold.clear();
    await user.click(button("Check"));
    await screen.findByText("The line is there more than once");
    expect(sent("/check")).toEqual([
      { address: "https://www.example.com" },
      { address: "https://www.example.com/freight" },
    ]);
  });

  it("says in plain words what is wrong with a page, and notices the first visit by itself", async () => {
    server.answers.set(
      "/api/setup/widgets/ferries/installation",
      fine({
        snippet: "<script>",
        link: "https://stoop.example.com/panel/ferries",
        window: "<a>",
        policy: ["script-src x"],
        mails: false,
      }),
    );
    server.answers.set(
      "POST /api/setup/widgets/ferries/check",
      fine({
        address: "https://www.example.com/",
        findings: [{ code: "other-key", what: "freight" }, { code: "twice" }],
      }),
    );
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "On the site" }));
    await screen.findByText(/No page has carried it yet/);
    await user.click(button("Check"));
    await screen.findByText("The line has another key: freight");
    await screen.findByText("The line is there more than once");
    server.answers.set("/api/setup/widgets", fine([widget({ firstSeen: "2026-11-28T10:00:00Z" })]));
    await screen.findByText(/The first real visit came/, undefined, { timeout: 15_000 });
  });
});

describe("what visitors find by themselves", () => {
  const article = (id: string, title: string, more = {}) => ({
    id,
    title,
    version: 1,
    folder: "",
    audience: "all",
    language: "en",
    read: { opened: 12, helped: 3, unhelped: 1 },
    ...more,
  });
  const open = async (help: Partial<WidgetDesign["help"]>) => {
    const made = { ...design, help: { ...design.help, ...help } };
    server.answers.set("/api/setup/widgets", fine([widget({ design: made })]));
    server.answers.set(
      "/api/articles?words=",
      fine([article("a", "Bicycles"), article("b", "Dogs"), article("c", "For us", { audience: "team" })]),
    );
    server.answers.set("POST /api/setup/widgets/ferries/publish", fine(widget({ version: 4, design: made })));
    const drawn = await draw(server, <WidgetsPage />);
    await drawn.user.click(await screen.findByRole("button", { name: "Before a person" }));
    return drawn;
  };
  const published = async (user: { click: (e: Element) => Promise<void> }) => {
    await user.click(button("Publish"));
    await waitFor(() => expect(sent("/publish")).toHaveLength(1));
    return (sent("/publish")[0] as { design: WidgetDesign }).design.help;
  };

  it("is chosen among the articles for visitors, ordered, and bound to pages", async () => {
    const { user } = await open({ faqs: [{ article: "a", pages: [] }] });
    await screen.findByText(/read by 12 · helped 3 of 4/);
    await user.click(screen.getByRole("combobox", { name: "Add an article" }));
    expect(screen.queryByRole("option", { name: /For us/ })).toBeNull();
    await user.click(await screen.findByRole("option", { name: /Dogs/ }));
    await user.click(await screen.findByRole("button", { name: "Move Dogs up" }));
    await user.click(button(/^Dogs/));
    await user.type(await screen.findByLabelText("Shown on"), "/animals*");
    expect(await published(user)).toMatchObject({
      faqs: [
        { article: "b", pages: ["/animals*"] },
        { article: "a", pages: [] },
      ],
    });
  });

  it("says that an article is gone, and lets it be taken out", async () => {
    const { user } = await open({ faqs: [{ article: "gone", pages: [] }] });
    await screen.findByText("(not for visitors any more)");
    await user.click(button("Take (not for visitors any more) out"));
    await user.click(screen.getByRole("checkbox", { name: /search all articles/ }));
    expect(await published(user)).toMatchObject({ faqs: [], search: true });
  });
});

describe("what is said automatically", () => {
  it("is written with its occasion, its seconds and its conditions", async () => {
    server.answers.set("POST /api/setup/widgets/ferries/publish", fine(widget({ version: 4 })));
    const { user } = await draw(server, <WidgetsPage />);
    await user.click(await screen.findByRole("button", { name: "Chat" }));
    await user.click(button("Add a message"));
    await user.type(screen.getByLabelText(/What is said/), "We are still busy.");
    const seconds = screen.getByLabelText(/^For/);
    await user.clear(seconds);
    await user.type(seconds, "90");
    await user.click(button("Add condition"));
    expect(screen.queryByRole("option", { name: "Basket value" })).toBeNull();
    await user.type(screen.getByLabelText("Value"), "/freight");
    await screen.findByText(/after 90 s of waiting · if page address contains “\/freight”/);
    await user.click(button("Publish"));
    await waitFor(() => expect(sent("/publish")).toHaveLength(1));
    expect((sent("/publish")[0] as { design: WidgetDesign }).design.automatic).toEqual([
      {
        id: "message-1",
        on: "wait",
        seconds: 90,
        match: "all",
        if: [{ field: "page.url", operator: "contains", value: "/freight" }],
        text: "We are still busy.",
      },
    ]);
  });

  it("shows what is wrong at its place, and marks the part where it stands", async () => {
    const wrongDesign = {
      ...design,
      automatic: [{ id: "a", on: "start" as const, seconds: 0, match: "all" as const, if: [], text: "" }],
    };
    server.answers.set("/api/setup/widgets", fine([widget({ design: wrongDesign })]));
    server.answers.set(
      "POST /api/setup/widget-preview",
      fine({ ...preview, wrong: [{ field: "automatic.0.text", words: "Write what is said." }] }),
    );
    const { user } = await draw(server, <WidgetsPage />);
    const part = await screen.findByRole("button", { name: /^Chat/ });
    await waitFor(() => expect(part.textContent).toContain("!"));
    await user.click(part);
    await user.click(button(/nothing yet/));
    await screen.findByText("Write what is said.");
  });
});
