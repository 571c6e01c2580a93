import { locale } from "../../shared/speak";

/** Names a weekday; 1 is Monday. */
export function weekdayName(day: number, length: "short" | "long" = "short"): string {
  // The first of January 2024 was a Monday.
  return new Intl.DateTimeFormat(locale(), { weekday: length, timeZone: "UTC" }).format(
    new Date(Date.UTC(2024, 0, day, 12)),
  );
}
