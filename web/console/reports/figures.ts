// How figures are said.
import { plural, t } from "@lingui/core/macro";

import { clock } from "../../shared/format";
import { locale } from "../../shared/speak";
import type { Amount, ChatFigures, Share } from "../../shared/types";

/** Of fewer chats than this a share or a middle says little: measure.Enough of the server, which a test holds it to. */
export const enough = 10;

/** Says a count. */
export function count(n: number): string {
  return new Intl.NumberFormat(locale()).format(n);
}

/** Says a number to one place. */
export function one(n: number): string {
  return new Intl.NumberFormat(locale(), { minimumFractionDigits: 1, maximumFractionDigits: 1 }).format(n);
}

/** Says a share in percent. */
export function percent(share: number): string {
  return new Intl.NumberFormat(locale(), { style: "percent", maximumFractionDigits: 0 }).format(share);
}

/** Says seconds as a clock does; nothing where there is no time. */
export function seconds(s: number | undefined): string {
  return s === undefined ? "–" : clock(Math.round(s) * 1000);
}

/** Says a share, or that it is of too few. */
export function shareWords(share: Share): string {
  if (share.of === 0) return "–";
  return share.of < enough ? t`${share.hits} of ${share.of}` : percent(share.share);
}

/** Says between what a share surely lies. */
export function surely(share: Share): string {
  if (share.of === 0) return t`none yet`;
  if (share.of < enough) return t`too few for a share`;
  return t`surely ${percent(share.low)} to ${percent(share.high)}`;
}

/** Says amounts of money, each in its currency. */
export function amountWords(amounts: readonly Amount[]): string {
  return amounts.map((a) => moneyIn(a.cents, a.currency)).join(", ") || "–";
}

/** Says an amount in whole units of its currency. */
export function moneyIn(cents: number, currency: string, whole = true): string {
  const format = new Intl.NumberFormat(locale(), { style: "currency", currency });
  const places = format.resolvedOptions().maximumFractionDigits ?? 2;
  const value = cents / 10 ** places;
  return whole
    ? new Intl.NumberFormat(locale(), { style: "currency", currency, maximumFractionDigits: 0 }).format(value)
    : format.format(value);
}

/** How a figure moved since the period before: its words, and whether that is good. */
export interface Change {
  words: string;
  way: "up" | "down" | "even";
  good?: boolean;
}

/** Compares a count with one before. */
export function countChange(now: number, before: number | undefined): Change | undefined {
  if (before === undefined || before < enough) return undefined;
  const part = (now - before) / before;
  if (Math.abs(part) < 0.005) return { words: t`as before`, way: "even" };
  const share = percent(Math.abs(part));
  return part > 0 ? { words: t`${share} more`, way: "up" } : { words: t`${share} fewer`, way: "down" };
}

/** Compares a share with one before, in points. */
export function shareChange(now: Share, before: Share | undefined): Change | undefined {
  if (!before || before.of < enough || now.of < enough) return undefined;
  const points = Math.round(100 * now.share) - Math.round(100 * before.share);
  if (points === 0) return { words: t`as before`, way: "even" };
  return points > 0
    ? { words: plural(points, { one: "# point better", other: "# points better" }), way: "up", good: true }
    : { words: plural(-points, { one: "# point worse", other: "# points worse" }), way: "down", good: false };
}

/** Compares a time with one before: less is better. */
export function timeChange(
  now: { n: number; median?: number },
  before: { n: number; median?: number } | undefined,
): Change | undefined {
  if (
    !before ||
    before.n < enough ||
    now.n < enough ||
    now.median === undefined ||
    before.median === undefined
  )
    return undefined;
  const more = Math.round(now.median) - Math.round(before.median);
  if (more === 0) return { words: t`as before`, way: "even" };
  const by = seconds(Math.abs(more));
  return more > 0
    ? { words: t`${by} slower`, way: "up", good: false }
    : { words: t`${by} faster`, way: "down", good: true };
}

/** Compares the mean rating with the one before. */
export function ratingChange(now: ChatFigures, before: ChatFigures | undefined): Change | undefined {
  if (!before || before.good.of < enough || now.good.of < enough) return undefined;
  if (now.rating === undefined || before.rating === undefined) return undefined;
  const more = Math.round(10 * now.rating) - Math.round(10 * before.rating);
  if (more === 0) return { words: t`as before`, way: "even" };
  const by = one(Math.abs(more) / 10);
  return more > 0
    ? { words: t`${by} better`, way: "up", good: true }
    : { words: t`${by} worse`, way: "down", good: false };
}
