import { fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";

import type { FeedbackSummary } from "../../shared/types";
import { Totals } from "./totals";

const summary = (ratings: number[], asked: number): FeedbackSummary => ({
  asked,
  rated: ratings.reduce((a, b) => a + b, 0),
  ratings,
  response: { share: 0.5, low: 0.4, high: 0.6 },
  content: { share: 0.9, low: 0.6, high: 0.98 },
});

describe("What feedback adds up to", () => {
  it("says of how many, and how sure it is", () => {
    render(<Totals summary={summary([0, 1, 0, 5, 4], 20)} rating={0} choose={() => undefined} />);
    expect(document.body.textContent).toContain("10 ratings from 20 visitors asked (50%)");
    expect(document.body.textContent).toContain("90% content surely 60% to 98%");
  });

  it("shows no share of a few", () => {
    render(<Totals summary={summary([0, 0, 0, 0, 3], 4)} rating={0} choose={() => undefined} />);
    expect(document.body.textContent).toContain("3 ratings from 4 visitors asked");
    expect(document.body.textContent).toContain("Too few for a share");
    expect(document.body.textContent).not.toMatch(/\d%|content\b.*surely/);
  });

  it("says so when nobody was asked", () => {
    render(<Totals summary={summary([0, 0, 0, 0, 0], 0)} rating={0} choose={() => undefined} />);
    expect(screen.getByText("Nobody was asked in this time.")).toBeTruthy();
  });

  it("shows one rating alone, and all again", () => {
    const choose = vi.fn();
    const { rerender } = render(<Totals summary={summary([0, 2, 0, 0, 1], 9)} rating={0} choose={choose} />);
    fireEvent.click(screen.getByRole("button", { name: /^Poor/ }));
    expect(choose).toHaveBeenLastCalledWith(2);
    rerender(<Totals summary={summary([0, 2, 0, 0, 1], 9)} rating={2} choose={choose} />);
    fireEvent.click(screen.getByRole("button", { name: /^Poor/ }));
    expect(choose).toHaveBeenLastCalledWith(0);
  });
});
