import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { sentence, wordsFor } from "../../shared/problem";
import type { HoursSettings } from "../../shared/types";
import { useNow } from "../desk/provider";
import { Icons } from "../icons";
import { useEdited, useEditing } from "../forms/editing";
import { Picker, SaveBar } from "../forms/parts";
import { useSaving, type Saving } from "../forms/saving";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Combo } from "../kit/combo";
import { DateField } from "../kit/date-field";
import { TextInput } from "../kit/field";
import { LoadTrouble, Wrong } from "../kit/states";
import { hoursWords } from "../words/hours";
import { dayName, nextSpan, readClock, sortWeek, todayIn, weekDays } from "./week";
import { WeekGrid } from "./week-grid";

const fresh: HoursSettings = {
  version: 0,
  name: "",
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  weekly: [1, 2, 3, 4, 5].map((day) => ({ day, from: "09:00", to: "17:00" })),
  exceptions: [],
};

const zones = Intl.supportedValuesOf("timeZone");

/** Opening hours: the week, holidays and exceptions, in and out as iCalendar. */
export function HoursPage() {
  const now = useNow();
  const hours = useQuery({
    queryKey: ["setup", "hours"],
    queryFn: () => ask(api.GET("/api/setup/hours")),
    refetchInterval: 60_000,
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("hours");
  if (hours.isError) return <LoadTrouble error={hours.error} again={() => void hours.refetch()} />;
  if (!hours.data) return <section className="loading" aria-busy="true" />;
  const all = hours.data;
  const shown = open === "new" ? fresh : (all.find((h) => h.id === open) ?? all[0] ?? fresh);
  return (
    <div className="two">
      <Picker
        title={t`Hours`}
        shown={shown.id}
        pick={setOpen}
        newUnsaved={edited.has("new")}
        items={all.map((h) => ({
          id: h.id ?? "",
          name: h.name,
          unsaved: edited.has(h.id ?? ""),
          about: (
            <span className={h.status?.open ? "is-open" : ""}>
              {h.status ? hoursWords(h.status, now) : ""}
            </span>
          ),
        }))}
      />
      <HoursForm key={shown.id ?? "new"} kept={shown} onSaved={setOpen} />
    </div>
  );
}

interface FormProps {
  kept: HoursSettings;
  onSaved: (id: string) => void;
}

function HoursForm({ kept, onSaved }: FormProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing(`hours.${kept.id ?? "new"}`, kept);
  const h = editing.value;
  // Entries of a calendar that was read and that could not become hours.
  const [leftOut, setLeftOut] = useState<string[]>([]);
  const change = (part: Partial<HoursSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        const saved = await ask(
          api.PUT("/api/setup/hours", { body: { ...bare(h), weekly: sortWeek(h.weekly) } }),
        );
        editing.saved(saved, `hours.${saved.id ?? "new"}`);
        setLeftOut([]);
        await queries.invalidateQueries({ queryKey: ["setup"] });
        onSaved(saved.id ?? "");
      },
      t`${h.name} saved and in effect`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/setup/hours/{id}", { params: { path: { id: kept.id ?? "" } } }));
        editing.undo();
        await queries.invalidateQueries({ queryKey: ["setup"] });
        onSaved("");
      },
      t`${kept.name} removed`,
    );
  return (
    <section className="editor" aria-label={h.name || t`New hours`}>
      <header>
        <h2>{kept.id ? kept.name : t`New hours`}</h2>
        <NowLine hours={h} />
        <span className="acts">
          <ReadCalendar
            onRead={(read) => {
              const { zone, weekly, exceptions } = read.hours;
              change({ zone, weekly, exceptions });
              setLeftOut(read.leftOut);
            }}
          />
          {kept.id ? (
            <Button href={`/api/setup/hours/${kept.id}/calendar`} download>
              <Trans>Export iCalendar</Trans>
            </Button>
          ) : null}
          {kept.id ? (
            <Button startIcon={<Icons.Bin />} onClick={remove}>
              <Trans>Remove</Trans>
            </Button>
          ) : null}
        </span>
      </header>
      <div className="body">
        {leftOut.length > 0 ? (
          <div className="left-out" role="status">
            <b>
              <Trans>Imported, but not saved yet.</Trans>
            </b>{" "}
            {plural(leftOut.length, {
              one: "# entry could not be used:",
              other: "# entries could not be used:",
            })}
            <ul>
              {leftOut.map((words) => (
                <li key={words}>{sentence(words)}</li>
              ))}
            </ul>
          </div>
        ) : null}
        <div className="fields">
          <TextInput
            label={t`Name`}
            value={h.name}
            change={(name) => change({ name })}
            wrong={saving.wrongAt("name")}
            most={80}
          />
          <Combo
            label={t`Time zone`}
            value={h.zone}
            options={zones}
            change={(value) => change({ zone: value.trim() })}
            wrong={saving.wrongAt("zone")}
            hint={t`Daylight saving time is handled for you`}
          />
        </div>
        <Wrong words={saving.wrongAt("weekly")} />
        <div className="week-and-list">
          <WeekGrid weekly={h.weekly} change={(weekly) => change({ weekly })} />
          <WeekList h={h} change={change} saving={saving} />
        </div>
        <Exceptions h={h} change={change} saving={saving} />
      </div>
      <SaveBar tryOut saving={saving} editing={editing} save={save} />
    </section>
  );
}

/** What is saved of hours: without what the server tells besides. */
export function bare(h: HoursSettings): HoursSettings {
  const { id, version, name, zone, weekly, exceptions } = h;
  return { id, version, name, zone, weekly, exceptions };
}

/** Says how hours stand now, saved or not. */
function NowLine({ hours }: { hours: HoursSettings }) {
  const now = useNow();
  const asked = JSON.stringify(bare(hours));
  const [settled, setSettled] = useState(asked);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(asked), 300);
    return () => clearTimeout(timer);
  }, [asked]);
  const status = useQuery({
    queryKey: ["setup", "hours-now", settled],
    queryFn: () => ask(api.POST("/api/setup/hours/check", { body: JSON.parse(settled) as HoursSettings })),
    retry: false,
    refetchInterval: 30_000,
  });
  if (!status.data) return <span className="now" />;
  const { open, holiday } = status.data;
  const words = hoursWords(status.data, now);
  return (
    <span className={`now ${open ? "is-open" : ""}`} role="status">
      {open ? <Icons.Check /> : <Icons.Door />} {words}
      {holiday ? ` (${holiday})` : ""}
    </span>
  );
}

interface PartProps {
  h: HoursSettings;
  change: (part: Partial<HoursSettings>) => void;
  saving: Saving;
}

/** The week typed: each period with its times. */
function WeekList({ h, change, saving }: PartProps) {
  return (
    <div className="week-list">
      {weekDays.map((day) => {
        const periods = h.weekly.map((p, index) => ({ ...p, index })).filter((p) => p.day === day);
        return (
          <div key={day} className="typed">
            <b>{dayName(day)}</b>
            <span className="spans">
              {periods.length === 0 ? (
                <i>
                  <Trans>closed</Trans>
                </i>
              ) : null}
              {periods.map((p) => (
                <span key={p.index} className="span">
                  <Time
                    label={t`${dayName(day)} from`}
                    value={p.from}
                    change={(from) =>
                      change({ weekly: h.weekly.map((w, i) => (i === p.index ? { ...w, from } : w)) })
                    }
                  />
                  <Trans>to</Trans>
                  <Time
                    label={t`${dayName(day)} to`}
                    value={p.to}
                    change={(to) =>
                      change({ weekly: h.weekly.map((w, i) => (i === p.index ? { ...w, to } : w)) })
                    }
                  />
                  <button
                    className="link"
                    aria-label={t`Remove ${dayName(day)} ${p.from} to ${p.to}`}
                    onClick={() => change({ weekly: h.weekly.filter((_, i) => i !== p.index) })}
                  >
                    <Icons.Close />
                  </button>
                  <Wrong words={saving.wrongAt(`weekly.${p.index}`)} />
                </span>
              ))}
            </span>
            <button
              className="link"
              aria-label={t`Add a period on ${dayName(day)}`}
              onClick={() => change({ weekly: sortWeek([...h.weekly, nextPeriod(day, periods)]) })}
            >
              <Icons.Plus />
            </button>
          </div>
        );
      })}
    </div>
  );
}

function nextPeriod(day: number, periods: { to: string }[]) {
  const last = periods.at(-1);
  return last && last.to < "20:00"
    ? { day, from: last.to, to: "22:00" }
    : { day, from: "09:00", to: "17:00" };
}

/** A time that is typed; what was meant is completed when the field is left. */
function Time({ label, value, change }: { label: string; value: string; change: (value: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <input
      className="time"
      aria-label={label}
      value={typed ?? value}
      maxLength={5}
      inputMode="numeric"
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => {
        if (typed !== null) change(readClock(typed));
        setTyped(null);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
}

/** Days with other hours, or none. */
function Exceptions({ h, change, saving }: PartProps) {
  const set = (index: number, part: Partial<HoursSettings["exceptions"][number]>) =>
    change({ exceptions: h.exceptions.map((x, i) => (i === index ? { ...x, ...part } : x)) });
  const today = todayIn(h.zone);
  return (
    <>
      <h3>
        <Trans>Holidays and special days</Trans>
      </h3>
      {h.exceptions.length === 0 ? (
        <p className="hint">
          <Trans>None. Add a day whose hours differ from the week.</Trans>
        </p>
      ) : null}
      <ul className="exceptions">
        {h.exceptions.map((x, i) => (
          <li key={i}>
            <DateField label={t`Day`} value={x.date} change={(date) => set(i, { date })} />
            <input
              className="name"
              aria-label={t`Name of the day`}
              placeholder={t`Name`}
              maxLength={80}
              value={x.name}
              onChange={(e) => set(i, { name: e.target.value })}
            />
            <Tick checked={x.yearly} change={(yearly) => set(i, { yearly })}>
              <Trans>every year</Trans>
            </Tick>
            <span className="spans">
              {x.spans.length === 0 ? (
                <i>
                  <Trans>closed all day</Trans>
                </i>
              ) : null}
              {x.spans.map((s, j) => (
                <span className="span" key={j}>
                  <Time
                    label={t`From`}
                    value={s.from}
                    change={(from) =>
                      set(i, { spans: x.spans.map((o, k) => (k === j ? { ...o, from } : o)) })
                    }
                  />
                  <Trans>to</Trans>
                  <Time
                    label={t`To`}
                    value={s.to}
                    change={(to) => set(i, { spans: x.spans.map((o, k) => (k === j ? { ...o, to } : o)) })}
                  />
                  <button
                    className="link"
                    aria-label={t`Remove these times`}
                    onClick={() => set(i, { spans: x.spans.filter((_, k) => k !== j) })}
                  >
                    <Icons.Close />
                  </button>
                </span>
              ))}
              <button className="link" onClick={() => set(i, { spans: [...x.spans, nextSpan(x.spans)] })}>
                <Trans>Add times</Trans>
              </button>
            </span>
            <button
              className="link"
              aria-label={t`Remove ${x.name || x.date}`}
              onClick={() => change({ exceptions: h.exceptions.filter((_, k) => k !== i) })}
            >
              <Icons.Bin />
            </button>
            <Wrong words={saving.wrongAt(`exceptions.${i}`)} />
          </li>
        ))}
      </ul>
      <Button
        startIcon={<Icons.Plus />}
        onClick={() =>
          change({ exceptions: [...h.exceptions, { date: today, name: "", yearly: false, spans: [] }] })
        }
      >
        <Trans>Add a day</Trans>
      </Button>
    </>
  );
}

/** Reads an iCalendar file into the form; nothing is saved by it. */
function ReadCalendar({ onRead }: { onRead: (read: { hours: HoursSettings; leftOut: string[] }) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState("");
  const read = async (chosen: File) => {
    setTrouble("");
    try {
      const calendar = await chosen.text();
      onRead(await ask(api.POST("/api/setup/hours/import", { body: { calendar } })));
    } catch (error) {
      setTrouble(wordsFor(error));
    }
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".ics,text/calendar"
        hidden
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = "";
          if (chosen) void read(chosen);
        }}
      />
      <Button onClick={() => file.current?.click()}>
        <Trans>Import iCalendar</Trans>
      </Button>
      <Wrong words={trouble} />
    </>
  );
}
