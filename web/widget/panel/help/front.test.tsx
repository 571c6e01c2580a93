import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { useSyncExternalStore } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { LostError } from "../../../shared/problem";
import type { ArticleTitle, HelpView } from "../../../shared/types";
import { startKey, type StartDraft } from "../drafts";
import { fakeWidget } from "../fake-widget";
import { PanelStore } from "../store";
import type { Answers } from "./answers";
import Front from "./front";

const widget = fakeWidget();

const faqs: ArticleTitle[] = [{ id: "a1", title: "Can I bring my bicycle?" }];

/** A panel whose answers come when the test says so. */
function panel(help: Partial<HelpView> | Error = { search: true, faqs }) {
  const asked: { words: string; answer: (list: ArticleTitle[]) => void; fail: (e: unknown) => void }[] = [];
  const told: boolean[] = [];
  let refuses = false;
  const answers: Answers = {
    help: () =>
      help instanceof Error ? Promise.reject(help) : Promise.resolve({ search: true, faqs: [], ...help }),
    find: (words) => new Promise((answer, fail) => asked.push({ words, answer, fail })),
    read: (id) =>
      refuses
        ? Promise.reject(new LostError())
        : Promise.resolve({ id, title: "Bicycles", html: "<p>They travel <b>free</b></p>", language: "en" }),
    helped: (_, yes) => {
      told.push(yes);
      return refuses ? Promise.reject(new LostError()) : Promise.resolve();
    },
  };
  const store = new PanelStore("ferries");
  store.answers = answers;
  store.state = { ...store.state, widget };
  const another = vi.spyOn(store, "another").mockImplementation(() => undefined);
  let words = "";
  const write = vi.fn();
  const shown = () => (
    <Front
      store={store}
      message={false}
      words={words}
      search={(typed) => {
        words = typed;
        drawn.rerender(shown());
      }}
      write={write}
      look={() => undefined}
      call={() => undefined}
    />
  );
  const drawn = render(shown());
  return { asked, told, another, write, refuse: (yes: boolean) => (refuses = yes) };
}

const types = (text: string) => fireEvent.input(screen.getByRole("searchbox"), { target: { value: text } });

beforeEach(() => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  localStorage.clear();
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

test("an answer to what was typed before does not stand under what is typed now", async () => {
  const { asked } = panel();
  await screen.findByText("Can I bring my bicycle?");
  types("dog");
  await waitFor(() => expect(asked).toHaveLength(1));
  types("dogs on board");
  await waitFor(() => expect(asked).toHaveLength(2));
  await act(async () => asked[1]?.answer([{ id: "d", title: "Dogs" }]));
  await act(async () => asked[0]?.answer([{ id: "c", title: "Doggerland" }]));
  expect(screen.getByText("Dogs")).toBeTruthy();
  expect(screen.queryByText("Doggerland")).toBeNull();
});

test("a list stays while the next letters are looked for, and the FAQs come back", async () => {
  const { asked } = panel();
  await screen.findByText("Can I bring my bicycle?");
  types("do");
  await waitFor(() => expect(asked).toHaveLength(1));
  await act(async () => asked[0]?.answer([{ id: "d", title: "Dogs" }]));
  types("dog");
  expect(screen.getByText("Dogs")).toBeTruthy();
  await waitFor(() => expect(asked).toHaveLength(2));
  await act(async () => asked[1]?.answer([]));
  expect(screen.getByRole("status").textContent).toContain("Please ask us");
  types("");
  expect(screen.getByText("Can I bring my bicycle?")).toBeTruthy();
});

test("each letter is not a request of its own", async () => {
  const { asked } = panel();
  await screen.findByText("Can I bring my bicycle?");
  for (const text of ["d", "do", "dog", "dogs"]) types(text);
  await waitFor(() => expect(asked).toHaveLength(1));
  expect(asked[0]?.words).toBe("dogs");
});

test("who cannot look, or has nothing to find, comes to the form at once", async () => {
  const lost = panel(new LostError());
  await waitFor(() => expect(lost.another).toHaveBeenCalledOnce());
  cleanup();
  const empty = panel({ search: false, faqs: [] });
  await waitFor(() => expect(empty.another).toHaveBeenCalledOnce());
});

test("a search that fails says so, and somebody can still be asked", async () => {
  const { asked, write } = panel();
  await screen.findByText("Can I bring my bicycle?");
  types("dogs");
  await waitFor(() => expect(asked).toHaveLength(1));
  await act(async () => asked[0]?.fail(new LostError()));
  expect(screen.getByRole("status").textContent).not.toBe("");
  fireEvent.click(screen.getByText("Ask our team"));
  expect(write).toHaveBeenCalledOnce();
});

test("whether an article helped is said once, and again if it did not arrive", async () => {
  const { told, refuse, write } = panel();
  fireEvent.click(await screen.findByText("Can I bring my bicycle?"));
  await screen.findByText("free");
  refuse(true);
  fireEvent.click(screen.getByText("No"));
  await screen.findByText("Did this help?");
  refuse(false);
  fireEvent.click(screen.getByText("No"));
  fireEvent.click(await screen.findByText("Ask somebody instead"));
  expect(told).toEqual([false, false]);
  expect(write).toHaveBeenCalledOnce();
});

test("an article that does not come can be asked for again", async () => {
  const { refuse } = panel();
  const title = await screen.findByText("Can I bring my bicycle?");
  refuse(true);
  fireEvent.click(title);
  await screen.findByRole("alert");
  refuse(false);
  fireEvent.click(screen.getByText("Try again"));
  await screen.findByText("free");
  expect(screen.queryByRole("alert")).toBeNull();
});

test("a link in an article leads out of the panel, which stays", async () => {
  const store = new PanelStore("ferries");
  store.state = { ...store.state, widget };
  store.answers = {
    help: () => Promise.resolve({ search: false, faqs }),
    find: () => Promise.resolve([]),
    read: (id) =>
      Promise.resolve({
        id,
        title: "T",
        html: '<p><a href="https://example.com/x">there</a></p>',
        language: "en",
      }),
    helped: () => Promise.resolve(),
  };
  const open = vi.spyOn(window, "open").mockImplementation(() => null);
  render(
    <Front
      store={store}
      message={false}
      words=""
      search={() => undefined}
      write={() => undefined}
      look={() => undefined}
      call={() => undefined}
    />,
  );
  fireEvent.click(await screen.findByText("Can I bring my bicycle?"));
  const link = await screen.findByText("there");
  expect(fireEvent.click(link)).toBe(false);
  expect(open).toHaveBeenCalledWith("https://example.com/x", "_blank", "noopener");
});

test("what is typed in the form stays when an answer is looked for first", () => {
  const store = new PanelStore("ferries");
  const draft: StartDraft = { name: "Petra", email: "", text: "My dog" };
  localStorage.setItem(startKey("ferries"), JSON.stringify(draft));
  store.find();
  expect(store.state.finding).toBe(true);
  store.another();
  expect(store.state).toMatchObject({ finding: false, starting: true });
  expect(localStorage.getItem(startKey("ferries"))).toBe(JSON.stringify(draft));
});

test("another page around has FAQs of its own", async () => {
  const store = new PanelStore("ferries");
  store.state = { ...store.state, widget };
  const asked: (string | undefined)[] = [];
  store.answers = {
    help: () => {
      asked.push(store.page?.url);
      return Promise.resolve({
        search: false,
        faqs: [{ id: "p", title: `About ${store.page?.url ?? "nothing"}` }],
      });
    },
    find: () => Promise.resolve([]),
    read: () => Promise.reject(new LostError()),
    helped: () => Promise.resolve(),
  };
  function Around() {
    useSyncExternalStore(store.subscribe, store.snapshot);
    return (
      <Front
        store={store}
        message={false}
        words=""
        search={() => undefined}
        write={() => undefined}
        look={() => undefined}
        call={() => undefined}
      />
    );
  }
  render(<Around />);
  await screen.findByText("About nothing");
  act(() => store.onPage({ url: "/freight", title: "Freight" }));
  await screen.findByText("About /freight");
  act(() => store.onPage({ url: "/freight", title: "Freight, with another title" }));
  expect(asked).toEqual([undefined, "/freight"]);
});
