import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { TicketFigures } from "../../shared/types";
import { useTeam } from "../desk/provider";
import { Period } from "../filters/period";
import { Pick } from "../filters/pick";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { useAddress } from "../kit/address";
import { colours, Legend, Lines } from "../kit/charts";
import { LoadTrouble } from "../kit/states";
import { Table, type Column } from "../kit/table";
import { dateName } from "./by-date";
import { Card } from "./cards";
import { count, countChange, percent, seconds } from "./figures";
import { useAsked } from "./use-report";

/** What tickets add up to: how many, how fast, and how they stand now. */
export default function Tickets() {
  const { asked } = useAsked();
  const [address, change] = useAddress();
  const departments = useTeam((s) => s.departments);
  const department = address.get("department") ?? "";
  const query = { from: asked.from ?? "", to: asked.to ?? "", department };
  const found = useQuery({
    queryKey: ["tickets", "report", query],
    queryFn: () => ask(api.GET("/api/tickets/report", { params: { query } })),
    placeholderData: keepPreviousData,
  });
  const r = found.data;
  return (
    <>
      <div className="filter-bar" role="search" aria-label={t`Which tickets`}>
        <Period from={query.from} to={query.to} change={change} />
        <Pick
          label={t`Department`}
          all={t`All`}
          value={department}
          choices={departments.map((d) => ({ id: d.id, name: d.name }))}
          change={(id) => change({ department: id })}
        />
        <Button
          variant="outlined"
          startIcon={<Icons.Download />}
          href={`/api/tickets/report/file?${new URLSearchParams(query).toString()}`}
        >
          <Trans>Table (CSV)</Trans>
        </Button>
      </div>
      {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
      {r ? (
        <div className={found.isPlaceholderData ? "stale" : ""} aria-busy={found.isPlaceholderData}>
          <div className="cards">
            <Card
              name={t`Made`}
              value={count(r.all.opened)}
              change={countChange(r.all.opened, r.before.opened)}
              note={t`${count(r.all.done)} done in the same time`}
            />
            <Card
              name={t`Answered in time`}
              value={r.all.answers > 0 ? percent(r.all.inTime / r.all.answers) : "–"}
              note={
                r.all.answers > 0
                  ? t`${count(r.all.inTime)} of ${count(r.all.answers)} answers to customers who waited`
                  : t`nobody was answered`
              }
            />
            <Card
              name={t`To the first answer, median`}
              value={r.all.first === undefined ? "–" : longTime(r.all.first)}
              note={t`from when it was made, nights included`}
            />
            <Card
              name={t`Until done, median`}
              value={r.all.finished === undefined ? "–" : longTime(r.all.finished)}
              note={t`of those done in the period`}
            />
            <Card
              name={t`Not done now`}
              value={count(r.now.unfinished)}
              to={`/tickets${department ? `?department=${department}` : ""}`}
              linkName={t`Tickets that are not done`}
              note={t`${count(r.now.late)} late, ${count(r.now.nobodys)} without an owner`}
            />
          </div>
          <section className="sheet">
            <header>
              <h2>
                <Trans>Made and done by day</Trans>
              </h2>
            </header>
            <Legend series={seriesOf(r.days)} />
            <Lines
              label={t`Tickets by day`}
              places={r.days.map((d) => dateName(d.name ?? "", "day"))}
              series={seriesOf(r.days)}
              height={200}
              say={count}
            />
          </section>
          <div className="two">
            <By title={t`By department`} rows={r.departments} />
            <By title={t`By owner`} rows={r.owners} />
          </div>
        </div>
      ) : null}
    </>
  );
}

function seriesOf(days: TicketFigures[]) {
  return [
    { name: t`made`, colour: colours.amber, values: days.map((d) => d.opened) },
    { name: t`done`, colour: colours.data, values: days.map((d) => d.done) },
  ];
}

function By({ title, rows }: { title: string; rows: TicketFigures[] }) {
  const columns: Column<TicketFigures>[] = [
    { head: title, cell: (r) => r.name || t`nobody` },
    { head: t`Made`, className: "number", cell: (r) => count(r.opened) },
    { head: t`Done`, className: "number", cell: (r) => count(r.done) },
    {
      head: t`In time`,
      className: "number",
      cell: (r) => (r.answers > 0 ? t`${count(r.inTime)} of ${count(r.answers)}` : "–"),
    },
    {
      head: t`First answer`,
      className: "number",
      cell: (r) => (r.first === undefined ? "–" : longTime(r.first)),
    },
  ];
  return (
    <section className="sheet">
      <header>
        <h2>{title}</h2>
      </header>
      {rows.length > 0 ? (
        <Table className="breakdown" columns={columns} rows={rows} keyOf={(r) => r.id ?? ""} />
      ) : (
        <p className="nothing">
          <Trans>None in this time.</Trans>
        </p>
      )}
    </section>
  );
}

/** Says a time that may take days, as exactly as one needs it. */
function longTime(s: number): string {
  if (s < 3600) return seconds(s);
  const hours = Math.floor(s / 3600);
  const minutes = Math.floor((s % 3600) / 60);
  if (hours < 24) return t`${hours} h ${minutes} min`;
  return t`${plural(Math.floor(hours / 24), { one: "# day", other: "# days" })} ${hours % 24} h`;
}
