import { t } from "@lingui/core/macro";
import { useNavigate } from "react-router";

import { dayShort } from "../../shared/days";
import { locale } from "../../shared/speak";
import type { Report } from "../../shared/types";
import { chatsBehind } from "../filters/asked";
import { shift } from "../filters/periods";
import { Bars, colours, Legend, Lines, type Series } from "../kit/charts";
import { count, enough, seconds } from "./figures";
import { useBehind } from "./use-report";

/** Names a row by date as its unit is named. */
export function dateName(key: string, unit: Report["unit"]): string {
  const at = new Date(`${key}T12:00:00Z`);
  const say = (options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat(locale(), { ...options, timeZone: "UTC" }).format(at);
  if (unit === "month") return say({ month: "short", year: "numeric" });
  if (unit === "week") return dayShort(key); // its Monday
  return say({ weekday: "short", day: "numeric" });
}

/** Returns the last day of a row by date. */
export function lastDayOf(key: string, unit: Report["unit"]): string {
  if (unit === "week") return shift(key, 6);
  if (unit === "month") {
    const next = new Date(`${key}T12:00:00Z`);
    next.setUTCMonth(next.getUTCMonth() + 1);
    return shift(next.toISOString().slice(0, 10), -1);
  }
  return key;
}

/** Answered chats, missed ones and messages by date; a bar leads to its chats. */
export function ByDate({ report, height = 230 }: { report: Report; height?: number }) {
  const behind = useBehind();
  const navigate = useNavigate();
  const endings = ["answered", "message", "missed"] as const;
  const series: Series[] = [
    {
      name: t`answered ${count(report.total.answered)}`,
      colour: colours.data,
      values: report.rows.map((r) => r.answered),
    },
    {
      name: t`messages ${count(report.total.messages)}`,
      colour: colours.pale,
      values: report.rows.map((r) => r.messages),
    },
    {
      name: t`missed ${count(report.total.missed)}`,
      colour: colours.trouble,
      values: report.rows.map((r) => r.missed),
    },
  ];
  const pick = (place: number, of: number) => {
    const key = report.rows[place]?.key;
    const ending = endings[of];
    if (!key || !ending) return;
    // A week may begin before the period: only its days within it are counted.
    const from = key < report.period.from ? report.period.from : key;
    const last = lastDayOf(key, report.unit);
    const to = last > report.period.to ? report.period.to : last;
    void navigate(chatsBehind(behind, { from, to, ending }));
  };
  return (
    <>
      <Legend series={series} />
      <Bars
        label={t`Chats by date`}
        places={report.rows.map((r) => dateName(r.key, report.unit))}
        series={series}
        height={height}
        say={(n) => count(n)}
        pick={pick}
      />
    </>
  );
}

/** The middle of waits and first replies by date; a day with too few has no point. */
export function SpeedByDate({ report, height = 200 }: { report: Report; height?: number }) {
  const of = (times: { n: number; median?: number }) => (times.n < enough ? null : (times.median ?? null));
  const series: Series[] = [
    { name: t`wait, median`, colour: colours.data, values: report.rows.map((r) => of(r.wait)) },
    { name: t`first reply, median`, colour: colours.strong, values: report.rows.map((r) => of(r.first)) },
    {
      name: t`wait, 90th percentile`,
      colour: colours.amber,
      values: report.rows.map((r) => (r.wait.n < enough ? null : (r.wait.p90 ?? null))),
    },
  ];
  return (
    <>
      <Legend series={series} />
      <Lines
        label={t`Waits and first replies by date`}
        places={report.rows.map((r) => dateName(r.key, report.unit))}
        series={series}
        height={height}
        say={(n) => seconds(n)}
      />
    </>
  );
}
