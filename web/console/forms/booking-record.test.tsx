import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";

import { ProblemError } from "../../shared/problem";
import type { RecordView } from "../../shared/types";
import { BookingRecord } from "./booking-record";

const known: RecordView = {
  state: "known",
  fields: [{ name: "tier", label: "Tier", value: "gold" }],
  link: "https://booking.example/C-1",
};
const unknown: RecordView = { state: "unknown", fields: [] };

function shown(ask: () => Promise<RecordView>, add?: () => Promise<RecordView>, lastKnown = {}, of = "c1") {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const page = (whose: string) => (
    <QueryClientProvider client={client}>
      <BookingRecord
        of={[whose]}
        ask={ask}
        {...(add ? { add } : {})}
        lastKnown={lastKnown}
        frame={(children) => <section aria-label="Record">{children}</section>}
      />
    </QueryClientProvider>
  );
  const { rerender } = render(page(of));
  return (whose: string) => rerender(page(whose));
}

test("a record says by what it was found, and leads to the whole", async () => {
  shown(() => Promise.resolve({ ...known, claimed: true }));
  expect(await screen.findByText("gold")).toBeTruthy();
  expect(screen.getByText("found by an email that is not verified")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Open the record" }).getAttribute("href")).toBe(known.link);
});

test("while the system is away what was last known is shown as such, and it can be asked again", async () => {
  const ask = vi
    .fn<() => Promise<RecordView>>()
    .mockResolvedValueOnce({ state: "away", fields: [] })
    .mockResolvedValue(known);
  shown(ask, undefined, { tier: "silver" });
  expect(await screen.findByText("Last known:")).toBeTruthy();
  expect(screen.getByText("silver")).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByText("gold")).toBeTruthy();
  expect(screen.queryByText("Last known:")).toBeNull();
});

test("who is unknown is added once; what went wrong with one is not said of the next", async () => {
  const trouble = { title: "The booking system did not take this", detail: "Look at the email.", code: "x" };
  let refuse: (error: unknown) => void = () => undefined;
  const add = vi.fn(() => new Promise<RecordView>((_, no) => (refuse = no)));
  const turnTo = shown(() => Promise.resolve(unknown), add);
  const button = await screen.findByRole("button", { name: "Add as a customer" });
  await userEvent.dblClick(button);
  expect(add).toHaveBeenCalledTimes(1);
  refuse(new ProblemError(trouble as never));
  expect((await screen.findByRole("alert")).textContent).toContain("did not take this");
  turnTo("c2");
  await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
});

test("without a booking system there is no part for it", async () => {
  const ask = vi.fn(() => Promise.resolve({ state: "none", fields: [] } as RecordView));
  shown(ask);
  await waitFor(() => expect(screen.queryByLabelText("Record")).toBeNull());
});
