import { locale } from "../../shared/speak";
import type { HoursSettings } from "../../shared/types";

/** A period of every week: from and to as hh:mm, to not after from means on the next day. */
export type Period = HoursSettings["weekly"][number];

/** Returns the name of a day of the week in the language that is spoken; 0 is Sunday, as the server counts. */
export function dayName(day: number, length: "long" | "short" = "long"): string {
  const sunday = Date.UTC(2026, 0, 4);
  const format = new Intl.DateTimeFormat(locale(), { weekday: length, timeZone: "UTC" });
  return format.format(sunday + day * 24 * 3600 * 1000);
}

/** The days in the order in which a week is shown. */
export const weekDays = [1, 2, 3, 4, 5, 6, 0];

/** Minutes since midnight of a time like 08:30; nonsense counts as midnight. */
export function inMinutes(clock: string): number {
  const [hour = 0, minute = 0] = clock.split(":").map(Number);
  return (hour || 0) * 60 + (minute || 0);
}

/** Writes minutes since midnight as hh:mm; the end of the day is 24:00. */
export function toClock(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

/** How long a period lasts, in minutes; over midnight when it ends before it begins. */
export function lengthOf(period: Period): number {
  const length = inMinutes(period.to) - inMinutes(period.from);
  return length <= 0 ? length + 24 * 60 : length;
}

/** Sorts periods as a week is read. */
export function sortWeek(weekly: Period[]): Period[] {
  return [...weekly].sort(
    (a, b) => ((a.day + 6) % 7) - ((b.day + 6) % 7) || inMinutes(a.from) - inMinutes(b.from),
  );
}

/** Completes what somebody typed as a time: 8 is 08:00, 830 is 08:30. Nonsense stays as it is. */
export function readClock(typed: string): string {
  const text = typed.trim().replace(".", ":");
  const short = /^(\d{1,2})$/.exec(text);
  if (short) return toClock(Number(short[1]) * 60);
  const plain = /^(\d{1,2})(\d{2})$/.exec(text);
  if (plain) return toClock(Number(plain[1]) * 60 + Number(plain[2]));
  const full = /^(\d{1,2}):(\d{1,2})$/.exec(text);
  if (full) return toClock(Number(full[1]) * 60 + Number(full[2]));
  return text;
}

/** Returns what day it is now in a time zone, as 2026-12-24; in one that is not known, here. */
export function todayIn(zone: string, now: Date = new Date()): string {
  const parts = { year: "numeric", month: "2-digit", day: "2-digit" } as const;
  try {
    return new Intl.DateTimeFormat("en-CA", { ...parts, timeZone: zone }).format(now);
  } catch {
    return new Intl.DateTimeFormat("en-CA", parts).format(now);
  }
}

/** Returns times to add behind those that a day has: they must not overlap. */
export function nextSpan(spans: readonly { from: string; to: string }[]): { from: string; to: string } {
  const last = spans
    .map((s) => s.to)
    .sort()
    .at(-1);
  if (!last || last < "10:00") return { from: "10:00", to: "14:00" };
  const hour = Number(last.slice(0, 2));
  if (hour >= 23) return { from: last, to: "24:00" };
  const to = `${String(Math.min(24, hour + 4)).padStart(2, "0")}:00`;
  return { from: last, to };
}
