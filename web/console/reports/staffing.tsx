import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { clock, timeOfDay } from "../../shared/format";
import type { Slot, StaffingPlan } from "../../shared/types";
import { useChoices } from "../filters/choices";
import { shift } from "../filters/periods";
import { Pick } from "../filters/pick";
import { useToday } from "../filters/today";
import { Icons } from "../icons";
import { useAddress } from "../kit/address";
import { BarsAndSteps, colours, Legend, type Series } from "../kit/charts";
import { DateField } from "../kit/date-field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { Counted } from "./counted";
import { one, percent } from "./figures";
import { RosterOfDay } from "./roster";

/** How many people a day needs, beside who is rostered. */
export default function Staffing() {
  const choices = useChoices();
  const today = useToday();
  const [address, change] = useAddress();
  const departments = (choices?.departments ?? []).filter((d) => !d.gone);
  const department = address.get("for") || departments[0]?.id || "";
  const day = address.get("day") || shift(today, 1);
  const share = Number(address.get("share")) || 0.8;
  const plan = useQuery({
    queryKey: ["staffing", department, day, share],
    queryFn: () => ask(api.GET("/api/staffing", { params: { query: { department, day, share } } })),
    placeholderData: keepPreviousData,
    enabled: department !== "",
  });
  return (
    <>
      <div className="filter-bar">
        <Pick
          label={t`Department`}
          all={t`Choose one`}
          value={department}
          choices={departments}
          change={(id) => change({ for: id })}
        />
        <DateField label={t`Day`} value={day} change={(picked) => change({ day: picked })} />
        <Select
          label={t`Taken within the target`}
          value={String(share)}
          change={(chosen) => change({ share: chosen === "0.8" ? "" : chosen })}
          options={["0.7", "0.8", "0.9", "0.95"].map((s) => ({
            value: s,
            label: t`${percent(Number(s))} of visitors`,
          }))}
        />
      </div>
      {plan.isError ? <LoadTrouble error={plan.error} again={() => void plan.refetch()} /> : null}
      {plan.data ? <Plan plan={plan.data} /> : null}
      <RosterOfDay day={day} departments={departments} />
    </>
  );
}

function Plan({ plan }: { plan: StaffingPlan }) {
  const { slots } = plan;
  if (slots.length === 0) {
    return (
      <p className="notice" role="status">
        <Trans>The department is closed on this day.</Trans>
      </p>
    );
  }
  if (slots.every((s) => s.days === 0)) {
    return (
      <p className="notice" role="status">
        <Trans>Nothing is known of such days yet: the department has had no live chats.</Trans>
      </p>
    );
  }
  const places = slots.map((s) => timeOfDay(s.at, plan.zone));
  const series: Series[] = [
    { name: t`rostered`, colour: colours.pale, values: slots.map((s) => s.rostered) },
    { name: t`short`, colour: colours.trouble, values: slots.map((s) => Math.max(0, s.needed - s.rostered)) },
  ];
  const steps: Series = { name: t`needed`, colour: "var(--ink)", values: slots.map((s) => s.needed) };
  return (
    <>
      <section className="sheet">
        <h2>
          <Trans>People needed</Trans>
        </h2>
        <Sentences plan={plan} />
        <Legend series={[steps, ...series]} />
        <BarsAndSteps
          label={t`People needed and rostered by half hour`}
          places={places}
          series={series}
          steps={steps}
          height={230}
          say={(n) => String(n)}
        />
      </section>
      <section className="sheet">
        <h2>
          <Trans>By half hour</Trans>
        </h2>
        <div className="scroll-x">
          <table className="breakdown">
            <thead>
              <tr>
                <th scope="col">
                  <span className="sr-only">
                    <Trans>Time</Trans>
                  </span>
                </th>
                {[
                  t`Chats expected`,
                  t`four days of five`,
                  t`Needed`,
                  t`Rostered`,
                  t`Each holds`,
                  t`In target`,
                  t`Have to wait`,
                  t`Give up`,
                ].map((head) => (
                  <th key={head} scope="col" className="number">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {slots.map((s, i) => (
                <tr key={s.at} className={s.rostered < s.needed ? "short" : ""}>
                  <th scope="row">{places[i]}</th>
                  <td className="number">{one(s.chats)}</td>
                  <td className="number">{t`${Math.round(s.low)} to ${Math.round(s.high)}`}</td>
                  <td className="number">{s.needed}</td>
                  <td className="number">
                    {s.shared > 0 ? t`${s.rostered}, ${s.shared} shared` : s.rostered}
                  </td>
                  <td className="number">{s.rostered === 0 ? "–" : one(s.atOnce)}</td>
                  <td className="number">{s.chats === 0 ? "–" : percent(s.within)}</td>
                  <td className="number">{s.chats === 0 ? "–" : percent(s.waits)}</td>
                  <td className="number">{s.chats === 0 ? "–" : percent(s.abandon)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <p className="none">
          {plan.learnt === 0 ? (
            <Trans>
              No chat was held here in the last eight weeks, so nothing is known of how long one takes.
            </Trans>
          ) : (
            <Trans>
              Learnt from {plan.learnt} chats of the last eight weeks: one takes {clock(plan.alone * 1000)} by
              itself, and {percent(plan.grows)} longer for each further one that is held beside it, up to{" "}
              {plan.capacity} at once. A visitor gives up after {clock(plan.patience * 1000)} in the mean.
            </Trans>
          )}{" "}
          {plan.guessed ? <Trans>Too few gave up to tell: that is a guess.</Trans> : null}{" "}
          {plan.holiday ? (
            plan.holidayDays > 0 ? (
              <Trans>
                The day is {plan.holiday}: {plan.holidayDays} such days of the past are what it is made of.
              </Trans>
            ) : (
              <Trans>
                The day is {plan.holiday}, of which nothing is known yet: usual days are what it is made of.
              </Trans>
            )
          ) : null}
        </p>
        <Counted codes={["forecast", "needed", "at-once", "own-time"]} />
      </section>
    </>
  );
}

/** Says in one sentence for each stretch how many people are missing. */
function Sentences({ plan }: { plan: StaffingPlan }) {
  const short = stretches(plan.slots);
  if (plan.slots.every((s) => s.rostered === 0)) {
    const most = Math.max(...plan.slots.map((s) => s.needed));
    const at = plan.slots.find((s) => s.needed === most)?.at ?? "";
    return (
      <p className="notice">
        <Trans>
          Nobody is rostered on this day. It needs up to {most}, first at {timeOfDay(at, plan.zone)}.
        </Trans>
      </p>
    );
  }
  if (short.length === 0) {
    return (
      <p className="notice good">
        <Icons.Check />{" "}
        {plan.slots.some((s) => s.shared > 0)
          ? t`Who is rostered is enough all day, as long as other departments do not need them.`
          : t`Who is rostered is enough all day.`}
      </p>
    );
  }
  return (
    <ul className="shortages">
      {short.map((s) => (
        <li key={s.from}>
          <Icons.Warning />{" "}
          <b>{t`${timeOfDay(s.from, plan.zone)} needs ${s.needed}, you have ${s.rostered}`}</b>{" "}
          {s.slots > 1 ? t`until ${timeOfDay(s.to, plan.zone)}` : ""}
          {s.within > 0
            ? t` – with them ${percent(s.within)} would be taken in time`
            : plural(Math.round(s.chats), {
                one: " – # visitor would find nobody",
                other: " – # visitors would find nobody",
              })}
        </li>
      ))}
    </ul>
  );
}

interface Stretch {
  from: string;
  to: string;
  needed: number;
  rostered: number;
  slots: number;
  within: number;
  chats: number;
}

/** Joins half hours that miss as many people of as many. */
export function stretches(slots: readonly Slot[]): Stretch[] {
  const list: Stretch[] = [];
  for (const s of slots) {
    if (s.rostered >= s.needed) continue;
    const end = new Date(Date.parse(s.at) + 30 * 60_000).toISOString();
    const last = list.at(-1);
    if (
      last &&
      Date.parse(last.to) === Date.parse(s.at) &&
      last.needed === s.needed &&
      last.rostered === s.rostered
    ) {
      last.to = end;
      last.slots++;
      last.chats += s.chats;
      last.within = Math.min(last.within, s.within);
      continue;
    }
    list.push({
      from: s.at,
      to: end,
      needed: s.needed,
      rostered: s.rostered,
      slots: 1,
      within: s.within,
      chats: s.chats,
    });
  }
  return list;
}
