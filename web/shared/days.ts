// Days by themselves, as reports and searches have them.
import { toldZone } from "./format";
import { locale } from "./speak";

/** Returns the day of a time as year-month-day (ISO 8601), in the zone in which times are told. */
export function isoDay(at: string | number): string {
  const parts = new Intl.DateTimeFormat("en-US", {
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    timeZone: toldZone(),
  }).formatToParts(new Date(at));
  const of = (type: string) => parts.find((p) => p.type === type)?.value ?? "";
  return `${of("year")}-${of("month")}-${of("day")}`;
}

/** Returns a day given as year-month-day in short: the year only where it is another one. */
export function dayShort(day: string): string {
  const other = day.slice(0, 4) !== isoDay(Date.now()).slice(0, 4);
  return new Intl.DateTimeFormat(locale(), {
    day: "numeric",
    month: "short",
    ...(other ? { year: "numeric" as const } : {}),
    timeZone: "UTC",
  }).format(new Date(`${day}T12:00:00Z`));
}
