// What tests of components draw them in: all that surrounds them in the
// console, with a connected Desk on a server that the test plays. Used together
// with vi.mock of live.ts.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent, { type UserEvent } from "@testing-library/user-event";
import { useEffect, type ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { expect, vi } from "vitest";

import { FakeLive } from "../../shared/fake-live";
import type { ChatView, OperatorView } from "../../shared/types";
import { Keyboard } from "../keyboard/keyboard";
import { ModeProvider } from "../theme/mode";
import { Says } from "../kit/says";
import { maren, type FakeServer } from "./fake-desk";
import { DeskProvider, useChat, useDeskStore, useTeam } from "./provider";
import type { DeskStore } from "./store/desk-store";

/** What a test has in hand once a component is drawn. */
export interface Drawn {
  user: UserEvent;
  store: DeskStore;
  live: FakeLive<never>;
}

interface Options {
  me?: OperatorView;
  path?: string;
  /** Answers what is asked over the live connection. */
  answer?: FakeLive<never>["answer"];
}

/** Draws a component within the console and waits until the Desk is there. */
export async function draw(
  server: FakeServer,
  element: ReactNode,
  { me = maren, path = "/desk", answer }: Options = {},
): Promise<Drawn> {
  vi.stubGlobal("fetch", server.fetch);
  let store: DeskStore | undefined;
  const take = (made: DeskStore) => {
    store = made;
  };
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const user = userEvent.setup({ delay: null, pointerEventsCheck: 0 });
  render(
    <ModeProvider>
      <QueryClientProvider client={queries}>
        <MemoryRouter initialEntries={[path]}>
          <DeskProvider me={me} onSignedOut={() => undefined}>
            <Keyboard>
              <Take take={take} />
              <Loaded>{element}</Loaded>
            </Keyboard>
          </DeskProvider>
          <Says />
        </MemoryRouter>
      </QueryClientProvider>
    </ModeProvider>,
  );
  const live = FakeLive.last;
  if (answer) live.answer = answer;
  live.up();
  await waitFor(() => expect(store?.stores.team.getState().loaded).toBe(true));
  await screen.findByTestId("loaded");
  if (!store) throw new Error("nothing was drawn");
  return { user, store, live };
}

function Take({ take }: { take: (store: DeskStore) => void }) {
  const store = useDeskStore();
  useEffect(() => {
    take(store);
  }, [take, store]);
  return null;
}

function Loaded({ children }: { children: ReactNode }) {
  return useTeam((s) => s.loaded) ? <div data-testid="loaded">{children}</div> : null;
}

/** Draws what a chat of the Desk looks like now: it follows the store. */
export function OfChat({ id, children }: { id: string; children: (chat: ChatView) => ReactNode }) {
  const chat = useChat(id);
  return chat ? children(chat) : null;
}

/** Takes away what was drawn, as one who leaves the page. */
export function leave(): void {
  cleanup();
}
