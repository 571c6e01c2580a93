import "./dry-run.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import dayjs from "dayjs";
import { useRef, useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import type {
  DepartmentSettings,
  DryRun,
  HoursSettings,
  ReplayColumns,
  ReplayFigures,
  RuleList,
} from "../../shared/types";
import { useUnsaved, type Unsaved } from "../forms/editing";
import { Button } from "../kit/button";
import { colours, Legend, Lines, type Series } from "../kit/charts";
import { Tick } from "../kit/choice";
import { DateField } from "../kit/date-field";
import { Wrong } from "../kit/states";
import { fieldWords } from "../words/fields";
import { bare } from "./hours";
import { type EditedPerson, personOf } from "./team";
import { count, one, percent, seconds } from "../reports/figures";

const kinds = ["rules", "hours", "department", "person"];

/** Lets past chats come again under what is changed and not saved, beside what is in force. */
export function DryRunPage() {
  const unsaved = useUnsaved(kinds);
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [from, setFrom] = useState(dayjs().subtract(28, "day").format("YYYY-MM-DD"));
  const [to, setTo] = useState(dayjs().subtract(1, "day").format("YYYY-MM-DD"));
  const [run, setRun] = useState<{ asked: string; got: DryRun }>();
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const latest = useRef(0);
  const draft = draftOf(unsaved.filter((u) => !without.has(u.name)));
  const body = { from, to, ...draft };
  const asked = JSON.stringify(body);
  const begin = () => {
    const mine = ++latest.current;
    setBusy(true);
    setTrouble("");
    setWrong({});
    ask(api.POST("/api/setup/dry-run", { body }))
      .then((got) => mine === latest.current && setRun({ asked, got }))
      .catch((error: unknown) => {
        if (mine !== latest.current) return;
        const fields = error instanceof ProblemError ? wrongFields(error.problem) : {};
        setWrong(fields);
        if (Object.keys(fields).length === 0) setTrouble(wordsFor(error));
      })
      .finally(() => mine === latest.current && setBusy(false));
  };
  return (
    <section className="editor dry-run" aria-label={t`Dry run`}>
      <header>
        <h2>
          <Trans>Dry run</Trans>
        </h2>
      </header>
      <div className="body">
        <p className="about">
          <Trans>
            Change rules, hours, departments or people on their pages without saving. Here the chats of a past
            period come again under that, with the real routing, and nobody notices.
          </Trans>{" "}
          <Link to="/setup/rules">
            <Trans>Rules</Trans>
          </Link>{" "}
          ·{" "}
          <Link to="/setup/hours">
            <Trans>Hours</Trans>
          </Link>{" "}
          ·{" "}
          <Link to="/setup/departments">
            <Trans>Departments</Trans>
          </Link>{" "}
          ·{" "}
          <Link to="/setup/team">
            <Trans>Team</Trans>
          </Link>
        </p>
        <h3>
          <Trans>Changed and not saved</Trans>
        </h3>
        {unsaved.length === 0 ? (
          <p className="about">
            <Trans>Nothing. What is in force is compared with what happened.</Trans>
          </p>
        ) : (
          <div className="changed">
            {unsaved.map((u) => (
              <Tick
                key={u.name}
                checked={!without.has(u.name)}
                change={(on) =>
                  setWithout((before) => {
                    const next = new Set(before);
                    if (on) next.delete(u.name);
                    else next.add(u.name);
                    return next;
                  })
                }
              >
                {nameOf(u)}
              </Tick>
            ))}
          </div>
        )}
        <div className="row period">
          <label>
            <Trans>from</Trans> <DateField label={t`First day`} value={from} change={setFrom} />
          </label>
          <label>
            <Trans>to</Trans> <DateField label={t`Last day`} value={to} change={setTo} />
          </label>
          <Button variant="contained" disabled={busy} onClick={begin}>
            {busy ? t`The chats come again` : t`Start`}
          </Button>
        </div>
        <Wrong words={[wrong.from, wrong.to, trouble].filter(Boolean).join(" ")} />
        {run && run.asked !== asked && !busy ? (
          <p className="draft-of" role="status">
            <Trans>This is of before: the draft or the period was changed since. Start again.</Trans>
          </p>
        ) : null}
        {run ? <Compared run={run.got} /> : null}
      </div>
    </section>
  );
}

/** What of the unsaved is sent, as its page would save it. */
function draftOf(unsaved: Unsaved[]) {
  const of = <T,>(kind: string) =>
    unsaved.filter((u) => u.name.startsWith(`${kind}.`)).map((u) => u.value as T);
  const rules = unsaved.find((u) => u.name === "rules")?.value as RuleList | undefined;
  const hours = of<HoursSettings>("hours").map(bare);
  const departments = of<DepartmentSettings>("department");
  const people = of<EditedPerson>("person").map(personOf);
  return {
    ...(rules ? { rules } : {}),
    ...(hours.length > 0 ? { hours } : {}),
    ...(departments.length > 0 ? { departments } : {}),
    ...(people.length > 0 ? { people } : {}),
  };
}

function nameOf({ name, value }: Unsaved): string {
  const called = (value as { name?: string }).name ?? "";
  switch (name.split(".")[0]) {
    case "rules":
      return t`The rules`;
    case "hours":
      return t`Hours: ${called}`;
    case "department":
      return t`Department: ${called}`;
    default:
      return t`Person: ${called}`;
  }
}

function Compared({ run }: { run: DryRun }) {
  if (run.wrong.length > 0)
    return (
      <div role="alert">
        <h3>
          <Trans>Mend this first</Trans>
        </h3>
        <ul>
          {run.wrong.map((w, i) => (
            <li key={i}>
              <b>{w.where}</b> {fieldWords(w.words) ?? w.words}
            </li>
          ))}
        </ul>
      </div>
    );
  if (run.chats === 0)
    return (
      <p className="nothing">
        <Trans>No chat came in this period.</Trans>
      </p>
    );
  const drafted = run.all.draft !== undefined;
  const hours = run.hours.filter((h) => h.happened.chats + h.inForce.chats + (h.draft?.chats ?? 0) > 0);
  const waits = (of: (h: ReplayColumns) => ReplayFigures | undefined) =>
    hours.map((h) => of(h)?.mean ?? null);
  const series: Series[] = [
    { name: t`happened`, colour: colours.plain, values: waits((h) => h.happened) },
    { name: t`in force, replayed`, colour: colours.data, values: waits((h) => h.inForce) },
    ...(drafted ? [{ name: t`draft, replayed`, colour: colours.amber, values: waits((h) => h.draft) }] : []),
  ];
  return (
    <div role="status" className="compared">
      <h3>
        <Trans>All chats of the period: {count(run.chats)}</Trans>
      </h3>
      <p className="about">
        <Trans>How far the second column is from the first is the model’s own error.</Trans>{" "}
        {drafted ? (
          <Trans>Believe a difference between the second and the third only if it is larger.</Trans>
        ) : null}
      </p>
      <Columns columns={run.all} />
      <h3>
        <Trans>Mean wait by the hour in which chats came</Trans>
      </h3>
      <Lines
        label={t`Mean wait by hour of the day, in seconds; the numbers stand in the table below`}
        places={hours.map((h) => String(h.hour))}
        series={series}
        height={200}
        say={(s) => seconds(s)}
      />
      <Legend series={series} />
      {run.departments.map((d) => (
        <div key={d.id}>
          <h3>{d.name}</h3>
          <Columns columns={d} />
        </div>
      ))}
      {run.moved.length > 0 ? (
        <>
          <h3>
            <Trans>Chats that come to another department</Trans>
          </h3>
          <ul>
            {run.moved.map((m) => (
              <li key={`${m.from} ${m.to}`}>
                <Trans>
                  {count(m.chats)} from {m.from} to {m.to}
                </Trans>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      <h3>
        <Trans>Loads</Trans>
      </h3>
      <table className="figures">
        <thead>
          <tr>
            <th />
            <th colSpan={2}>{t`happened`}</th>
            <th colSpan={2}>{t`in force, replayed`}</th>
            {drafted ? <th colSpan={2}>{t`draft, replayed`}</th> : null}
          </tr>
          <tr>
            <th />
            {[run.all.happened, run.all.inForce, ...(run.all.draft ? [run.all.draft] : [])].flatMap(
              (_, i) => [<th key={`c${i}`}>{t`chats`}</th>, <th key={`h${i}`}>{t`at once`}</th>],
            )}
          </tr>
        </thead>
        <tbody>
          {run.operators.map((o) => (
            <tr key={o.name}>
              <th scope="row">{o.name}</th>
              {[o.happened, o.inForce, ...(o.draft ? [o.draft] : [])].flatMap((l, i) => [
                <td key={`c${i}`}>{count(l.chats)}</td>,
                <td key={`h${i}`}>{l.held === undefined ? "" : one(l.held)}</td>,
              ])}
            </tr>
          ))}
        </tbody>
      </table>
      <h3>
        <Trans>By hour</Trans>
      </h3>
      <table className="figures">
        <thead>
          <tr>
            <th>{t`hour`}</th>
            <th>{t`chats`}</th>
            {series.flatMap((s) => [
              <th key={`m${s.name}`}>{t`missed, ${s.name}`}</th>,
              <th key={`w${s.name}`}>{t`mean wait, ${s.name}`}</th>,
            ])}
          </tr>
        </thead>
        <tbody>
          {hours.map((h) => (
            <tr key={h.hour}>
              <th scope="row">{h.hour}</th>
              <td>{count(h.happened.chats)}</td>
              {[h.happened, h.inForce, ...(h.draft ? [h.draft] : [])].flatMap((f, i) => [
                <td key={`m${i}`}>{count(f.missed)}</td>,
                <td key={`w${i}`}>{seconds(f.mean)}</td>,
              ])}
            </tr>
          ))}
        </tbody>
      </table>
      <h3>
        <Trans>To bear in mind</Trans>
      </h3>
      <ul>
        <li>
          <Trans>
            The log does not say who was there: it is told from the chats that each held, with gaps of up to
            an hour. Who held none was not there.
          </Trans>
        </li>
        <li>
          <Trans>
            Everybody takes what they get, and hands nothing on. How long a chat was held is as it was,
            however many are held at once.
          </Trans>
        </li>
        {run.notes.map((n) => (
          <li key={`${n.code} ${n.value ?? ""}`}>{noteWords(n)}</li>
        ))}
      </ul>
    </div>
  );
}

function noteWords({ code, value = "" }: DryRun["notes"][number]): string {
  switch (code) {
    case "patience-guessed":
      return t`Too few visitors gave up to tell how patient they are: five minutes are assumed.`;
    case "field-unknown":
      return t`Rules ask for ${value}, which is not kept of past chats: there it is unknown.`;
    default:
      return t`${value} is no longer in the team, but was there then: their time counts.`;
  }
}

function Columns({ columns }: { columns: ReplayColumns }) {
  const all = [columns.happened, columns.inForce, ...(columns.draft ? [columns.draft] : [])];
  const share = (n: number, of: number) => (of === 0 ? "" : percent(n / of));
  const rows: { name: string; say: (f: ReplayFigures) => string }[] = [
    { name: t`Chats`, say: (f) => count(f.chats) },
    { name: t`Missed`, say: (f) => `${count(f.missed)} ${bracketed(share(f.missed, f.chats))}` },
    { name: t`Came while nobody could answer`, say: (f) => count(f.messages) },
    { name: t`Taken on target`, say: (f) => `${count(f.inTarget)} ${bracketed(share(f.inTarget, f.chats))}` },
    { name: t`Wait, median`, say: (f) => seconds(f.median) },
    { name: t`Wait, 90 % are faster`, say: (f) => seconds(f.p90) },
    { name: t`Wait, mean`, say: (f) => seconds(f.mean) },
  ];
  return (
    <table className="figures">
      <thead>
        <tr>
          <th />
          <th>{t`happened`}</th>
          <th>{t`in force, replayed`}</th>
          {columns.draft ? <th>{t`draft, replayed`}</th> : null}
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.name}>
            <th scope="row">{r.name}</th>
            {all.map((f, i) => (
              <td key={i}>{r.say(f)}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const bracketed = (words: string) => (words ? `(${words})` : "");
