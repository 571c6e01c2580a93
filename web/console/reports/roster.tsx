import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayShort } from "../../shared/days";
import { timeOfDay, toldZone } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { Choice } from "../../shared/types";
import { useChoices } from "../filters/choices";
import { shift as dayAfter } from "../filters/periods";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { TextInput } from "../kit/field";
import { ImportFile } from "../kit/import-file";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";

/** Who is to be there on a day; shifts are added and taken away, or come from a file. */
export function RosterOfDay({ day, departments }: { day: string; departments: Choice[] }) {
  const queries = useQueryClient();
  const choices = useChoices();
  const [importing, setImporting] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const roster = useQuery({
    queryKey: ["roster", day],
    queryFn: () => ask(api.GET("/api/roster", { params: { query: { from: day, to: day } } })),
  });
  const anew = async () => {
    await queries.invalidateQueries({ queryKey: ["roster"] });
    await queries.invalidateQueries({ queryKey: ["staffing"] });
  };
  const remove = async (id: string) => {
    setTrouble(undefined);
    try {
      await ask(api.DELETE("/api/roster/{id}", { params: { path: { id } } }));
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    await anew();
  };
  const nameOf = (id: string) => choices?.operators.find((o) => o.id === id)?.name ?? t`somebody`;
  const placeOf = (id: string | undefined) =>
    id ? (choices?.departments.find((d) => d.id === id)?.name ?? "") : t`all of theirs`;
  const month = { from: day, to: dayAfter(day, 27) };
  return (
    <section className="sheet roster">
      <header>
        <h2>{t`Roster of ${dayShort(day)}`}</h2>
        <span>
          <Button onClick={() => setImporting(true)}>
            <Trans>Import</Trans>
          </Button>
          <Button
            component="a"
            href={`/api/roster/file?from=${month.from}&to=${month.to}&format=csv`}
            download
          >
            CSV
          </Button>
          <Button
            component="a"
            href={`/api/roster/file?from=${month.from}&to=${month.to}&format=ics`}
            download
          >
            <Trans>Calendar</Trans>
          </Button>
        </span>
      </header>
      {roster.isError ? <LoadTrouble error={roster.error} again={() => void roster.refetch()} /> : null}
      {roster.data?.shifts.length === 0 ? (
        <p className="none">
          <Trans>Nobody yet. Add shifts below, or import them from a file.</Trans>
        </p>
      ) : null}
      <ul>
        {(roster.data?.shifts ?? []).map((s) => (
          <li key={s.id}>
            <b>
              <bdi>{nameOf(s.operatorId)}</bdi>
            </b>
            <span>
              {timeOfDay(s.startsAt)} – {timeOfDay(s.endsAt)}
            </span>
            <span>{placeOf(s.departmentId)}</span>
            <IconButton
              aria-label={t`Remove the shift of ${nameOf(s.operatorId)}`}
              onClick={() => void remove(s.id)}
            >
              <Icons.Bin />
            </IconButton>
          </li>
        ))}
      </ul>
      <Wrong words={trouble} />
      <Add day={day} departments={departments} done={anew} />
      {importing ? (
        <ImportFile
          title={t`Import a roster`}
          accept=".csv,.ics,text/csv,text/calendar"
          numbered={(n) => t`Shift ${n}`}
          onClose={() => setImporting(false)}
          run={async (text, apply) => {
            const plan = await ask(api.POST("/api/roster/import", { body: { text, apply } }));
            if (apply) await anew();
            return {
              add: plan.add,
              change: 0,
              same: plan.same,
              rejected: plan.refused.length,
              lines: plan.lines,
              refused: plan.refused,
              ...(plan.remove > 0
                ? { beside: t`Shifts of these days that the file does not have are removed: ${plan.remove}.` }
                : {}),
            };
          }}
        >
          <p>
            <Trans>
              A CSV file with the columns operator (email or name), department (may be empty), from and to as
              2026-11-28 08:00; or an iCalendar file with an event for each shift. The days from its first to
              its last shift become as the file says.
            </Trans>
          </p>
        </ImportFile>
      ) : null}
    </section>
  );
}

/** The moment at which clocks of the team's zone show a time on a day. */
export function momentOf(day: string, time: string, zone: string): string {
  const wanted = Date.parse(`${day}T${time}:00Z`);
  let at = wanted;
  // The offset of the zone is known only at a moment: twice is enough to find it.
  for (let i = 0; i < 2; i++) at = wanted - offset(at, zone);
  return new Date(at).toISOString();
}

function offset(at: number, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-US", {
    timeZone: zone,
    hourCycle: "h23",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
  }).formatToParts(new Date(at));
  const of = (type: string) => Number(parts.find((p) => p.type === type)?.value ?? 0);
  return Date.UTC(of("year"), of("month") - 1, of("day"), of("hour"), of("minute"), of("second")) - at;
}

function Add({ day, departments, done }: { day: string; departments: Choice[]; done: () => Promise<void> }) {
  const choices = useChoices();
  const team = (choices?.operators ?? []).filter((o) => !o.gone);
  const [operatorId, setOperator] = useState("");
  const [departmentId, setDepartment] = useState("");
  const [from, setFrom] = useState("08:00");
  const [to, setTo] = useState("16:00");
  const [trouble, setTrouble] = useState<string>();
  const add = async () => {
    setTrouble(undefined);
    try {
      const zone = toldZone();
      // What ends before it begins ends on the next day.
      const ends = to <= from ? dayAfter(day, 1) : day;
      await ask(
        api.POST("/api/roster", {
          body: {
            id: "",
            operatorId,
            ...(departmentId ? { departmentId } : {}),
            startsAt: momentOf(day, from, zone),
            endsAt: momentOf(ends, to, zone),
          },
        }),
      );
      await done();
    } catch (error) {
      setTrouble(wordsFor(error));
    }
  };
  const isTime = (text: string) => /^([01]\d|2[0-3]):[0-5]\d$/.test(text);
  return (
    <form
      className="add-shift"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <Select
        label={t`Who`}
        value={operatorId}
        change={setOperator}
        options={[{ value: "", label: t`Choose` }, ...team.map((o) => ({ value: o.id, label: o.name }))]}
      />
      <Select
        label={t`For`}
        value={departmentId}
        change={setDepartment}
        options={[
          { value: "", label: t`all of theirs` },
          ...departments.map((d) => ({ value: d.id, label: d.name })),
        ]}
      />
      <TextInput label={t`From`} value={from} change={setFrom} most={5} placeholder="08:00" />
      <TextInput label={t`To`} value={to} change={setTo} most={5} placeholder="16:00" />
      <Button type="submit" variant="outlined" disabled={!operatorId || !isTime(from) || !isTime(to)}>
        <Trans>Add</Trans>
      </Button>
      <Wrong words={trouble} />
    </form>
  );
}
