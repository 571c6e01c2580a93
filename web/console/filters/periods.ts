// Periods that are asked for again and again, in whole days.
import { t } from "@lingui/core/macro";

/** Returns the day so many days after one, both as year-month-day. */
export function shift(day: string, days: number): string {
  const at = new Date(`${day}T12:00:00Z`);
  at.setUTCDate(at.getUTCDate() + days);
  return at.toISOString().slice(0, 10);
}

/** A period by name, with its first and last day on a given day. */
export interface Preset {
  id: string;
  name: string;
  days: (today: string) => [from: string, to: string];
}

/** The periods that there is a name for. */
export function presets(): Preset[] {
  return [
    { id: "today", name: t`Today`, days: (today) => [today, today] },
    { id: "yesterday", name: t`Yesterday`, days: (today) => [shift(today, -1), shift(today, -1)] },
    { id: "week", name: t`Last 7 days`, days: (today) => [shift(today, -6), today] },
    { id: "weeks", name: t`Last 28 days`, days: (today) => [shift(today, -27), today] },
    { id: "month", name: t`This month`, days: (today) => [`${today.slice(0, 8)}01`, today] },
    {
      id: "lastMonth",
      name: t`Last month`,
      days: (today) => {
        const last = shift(`${today.slice(0, 8)}01`, -1);
        return [`${last.slice(0, 8)}01`, last];
      },
    },
    { id: "year", name: t`Last 365 days`, days: (today) => [shift(today, -364), today] },
  ];
}
