import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import type { DepartmentSettings, HoursSettings, PersonSettings } from "../../shared/types";
import { useNow } from "../desk/provider";
import { useEdited, useEditing } from "../forms/editing";
import { Picker, type Place, Places, SaveBar } from "../forms/parts";
import { Removal } from "../forms/removal";
import { useSaving } from "../forms/saving";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { handOutWords } from "../words/codes";
import { hoursWords } from "../words/hours";

const fresh: DepartmentSettings = {
  version: 0,
  name: "",
  handOut: "pick",
  choice: "fewest",
  lastFirst: true,
  languagesFirst: false,
  capacity: 3,
  targetSeconds: 60,
  offerSeconds: 20,
  passLimit: 3,
  handOnSeconds: 60,
  wrapUpSeconds: 0,
  wrapUpRequired: false,
  silentRemind: 0,
  silentEnd: 120,
  alertWaiting: 5,
  alertWaitSeconds: 180,
  alertNobodySeconds: 300,
  alertRatings: true,
  overflowTo: [],
  overflowAfter: 0,
  overflowLength: 0,
  overflowClosed: false,
  isDefault: false,
  members: [],
};

/** Departments: who belongs to them, how chats are handed out, and who helps. */
export function DepartmentsPage() {
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const hours = useQuery({ queryKey: ["setup", "hours"], queryFn: () => ask(api.GET("/api/setup/hours")) });
  const people = useQuery({
    queryKey: ["setup", "people"],
    queryFn: () => ask(api.GET("/api/setup/people")),
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("department");
  const failed = [departments, hours, people].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!departments.data || !hours.data || !people.data)
    return <section className="loading" aria-busy="true" />;
  const all = departments.data;
  const shown = open === "new" ? fresh : (all.find((d) => d.id === open) ?? all[0] ?? fresh);
  return (
    <div className="two">
      <Picker
        title={t`Departments`}
        shown={shown.id}
        pick={setOpen}
        newUnsaved={edited.has("new")}
        items={all.map((d) => ({
          id: d.id ?? "",
          name: d.name,
          unsaved: edited.has(d.id ?? ""),
          about: (
            <span>
              {[
                plural(d.members.length, { one: "# member", other: "# members" }),
                handOutWords(d.handOut),
                d.isDefault ? t`default` : "",
              ]
                .filter(Boolean)
                .join(" · ")}
            </span>
          ),
        }))}
      />
      <DepartmentForm
        key={shown.id ?? "new"}
        kept={shown}
        all={all}
        hours={hours.data}
        people={people.data}
        onSaved={setOpen}
      />
    </div>
  );
}

interface FormProps {
  kept: DepartmentSettings;
  all: DepartmentSettings[];
  hours: HoursSettings[];
  people: PersonSettings[];
  onSaved: (id: string) => void;
}

function DepartmentForm({ kept, all, hours, people, onSaved }: FormProps) {
  const now = useNow();
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing(`department.${kept.id ?? "new"}`, kept);
  const d = editing.value;
  const change = (part: Partial<DepartmentSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const reload = () => queries.invalidateQueries({ queryKey: ["setup"] });
  const save = () =>
    void saving.run(
      async () => {
        const saved = await ask(api.PUT("/api/setup/departments", { body: d }));
        editing.saved(saved, `department.${saved.id ?? "new"}`);
        await reload();
        onSaved(saved.id ?? "");
      },
      t`${d.name} saved and in effect`,
    );
  const remove = () => {
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/setup/departments/{id}", { params: { path: { id: kept.id ?? "" } } }));
        editing.undo();
        await reload();
        onSaved("");
      },
      t`${kept.name} removed`,
    );
  };
  const others = all.filter((o) => o.id !== d.id);
  return (
    <section className="editor" aria-label={d.name || t`New department`}>
      <header>
        <h2>{kept.id ? kept.name : t`New department`}</h2>
        {kept.id && !kept.isDefault ? (
          <Removal
            question={t`Remove ${kept.name}? Its transcripts are kept.`}
            remove={remove}
            words={t`Remove`}
          />
        ) : null}
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label={t`Name`}
            value={d.name}
            change={(name) => change({ name })}
            wrong={wrongAt("name")}
            most={80}
          />
          <Select
            label={t`Opening hours`}
            value={d.hoursId ?? ""}
            change={(hoursId) => change({ hoursId })}
            wrong={wrongAt("hoursId")}
            options={[
              { value: "", label: t`Around the clock` },
              ...hours.map((h) => ({
                value: h.id ?? "",
                label: `${h.name} (${hoursWords(h.status, now)})`,
              })),
            ]}
          />
        </div>
        <Members people={people} d={d} change={change} />
        <Wrong words={wrongAt("members")} />
        <h3>
          <Trans>How chats are handed out</Trans>
        </h3>
        <div className="fields">
          <Select
            label={t`Chats are`}
            value={d.handOut}
            change={(v) => change({ handOut: v as DepartmentSettings["handOut"] })}
            options={[
              { value: "pick", label: t`picked by operators` },
              { value: "offer", label: t`offered to one, then the next` },
              { value: "assign", label: t`assigned right away` },
            ]}
          />
          <Select
            label={t`Who gets the next chat`}
            value={d.choice}
            change={(v) => change({ choice: v as DepartmentSettings["choice"] })}
            options={[
              { value: "fewest", label: t`whoever has the fewest chats` },
              { value: "turn", label: t`everyone in turn` },
              { value: "share", label: t`whoever has the most room` },
            ]}
          />
          <NumberField
            label={t`Capacity`}
            unit={t`chats each`}
            value={d.capacity}
            change={(capacity) => change({ capacity })}
            wrong={wrongAt("capacity")}
          />
          <NumberField
            label={t`Answer target`}
            unit={t`seconds`}
            value={d.targetSeconds}
            change={(targetSeconds) => change({ targetSeconds })}
            wrong={wrongAt("targetSeconds")}
          />
          {d.handOut === "pick" && !d.lastFirst ? null : (
            <NumberField
              label={t`An offer lasts`}
              unit={t`seconds`}
              value={d.offerSeconds}
              change={(offerSeconds) => change({ offerSeconds })}
              wrong={wrongAt("offerSeconds")}
            />
          )}
          {d.handOut === "offer" ? (
            <NumberField
              label={t`Set to away after this many missed offers`}
              value={d.passLimit}
              change={(passLimit) => change({ passLimit })}
              wrong={wrongAt("passLimit")}
            />
          ) : null}
          <NumberField
            label={t`Hand-on returns if nobody takes it after`}
            unit={t`seconds`}
            value={d.handOnSeconds}
            change={(handOnSeconds) => change({ handOnSeconds })}
            wrong={wrongAt("handOnSeconds")}
          />
          <NumberField
            label={t`Wrap-up`}
            unit={t`seconds`}
            value={d.wrapUpSeconds}
            change={(wrapUpSeconds) => change({ wrapUpSeconds })}
            wrong={wrongAt("wrapUpSeconds")}
            hint={t`Counts as a chat while it lasts`}
          />
          <NumberField
            label={t`Remind a silent visitor after`}
            unit={t`seconds`}
            value={d.silentRemind}
            change={(silentRemind) => change({ silentRemind })}
            wrong={wrongAt("silentRemind")}
            none={t`never`}
          />
          <NumberField
            label={t`End the chat after another`}
            unit={t`seconds`}
            value={d.silentEnd}
            change={(silentEnd) => change({ silentEnd })}
            wrong={wrongAt("silentEnd")}
            hint={t`If they still say nothing`}
          />
        </div>
        <Tick checked={d.wrapUpRequired} change={(wrapUpRequired) => change({ wrapUpRequired })}>
          <Trans>Require an outcome before an answered chat is closed</Trans>
        </Tick>
        <Tick checked={d.lastFirst} change={(lastFirst) => change({ lastFirst })}>
          <Trans>Prefer the operator from last time</Trans>
        </Tick>
        <Tick checked={d.languagesFirst} change={(languagesFirst) => change({ languagesFirst })}>
          <Trans>Prefer operators who speak the visitor’s language</Trans>
        </Tick>
        <h3>
          <Trans>When leads are alerted</Trans>
        </h3>
        <div className="fields">
          <NumberField
            label={t`When this many are waiting`}
            unit={t`chats`}
            value={d.alertWaiting}
            change={(alertWaiting) => change({ alertWaiting })}
            wrong={wrongAt("alertWaiting")}
            none={t`never`}
          />
          <NumberField
            label={t`When somebody has waited`}
            unit={t`seconds`}
            value={d.alertWaitSeconds}
            change={(alertWaitSeconds) => change({ alertWaitSeconds })}
            wrong={wrongAt("alertWaitSeconds")}
            none={t`never`}
          />
          <NumberField
            label={t`When nobody has been available for`}
            unit={t`seconds`}
            value={d.alertNobodySeconds}
            change={(alertNobodySeconds) => change({ alertNobodySeconds })}
            wrong={wrongAt("alertNobodySeconds")}
            hint={t`Within opening hours`}
            none={t`never`}
          />
        </div>
        <Tick checked={d.alertRatings} change={(alertRatings) => change({ alertRatings })}>
          <Trans>For every low rating (1 or 2 of 5)</Trans>
        </Tick>
        <h3>
          <Trans>Overflow: departments that help out</Trans>
        </h3>
        <OverflowSteps d={d} others={others} change={change} />
        <Wrong words={wrongAt("overflowTo")} />
        {d.overflowTo.length > 0 ? (
          <>
            <div className="fields">
              <NumberField
                label={t`After a wait of`}
                unit={t`seconds`}
                value={d.overflowAfter}
                change={(overflowAfter) => change({ overflowAfter })}
                wrong={wrongAt("overflowAfter")}
                none={t`does not count`}
              />
              <NumberField
                label={t`When more are waiting than`}
                unit={t`chats`}
                value={d.overflowLength}
                change={(overflowLength) => change({ overflowLength })}
                wrong={wrongAt("overflowLength")}
                none={t`does not count`}
              />
            </div>
            <Tick checked={d.overflowClosed} change={(overflowClosed) => change({ overflowClosed })}>
              <Trans>Also while it is closed or nobody in it is logged in</Trans>
            </Tick>
          </>
        ) : null}
        <h3>
          <Trans>Default department</Trans>
        </h3>
        <Tick checked={d.isDefault} change={(isDefault) => change({ isDefault })}>
          <Trans>Takes every chat that no rule sends elsewhere</Trans>
        </Tick>
        <Wrong words={wrongAt("isDefault")} />
      </div>
      <SaveBar tryOut saving={saving} editing={editing} save={save} />
    </section>
  );
}

interface PartProps {
  d: DepartmentSettings;
  change: (part: Partial<DepartmentSettings>) => void;
}

function Members({ people, d, change }: PartProps & { people: PersonSettings[] }) {
  const placeOf = (id: string): Place => {
    const m = d.members.find((member) => member.operatorId === id);
    return m ? (m.backup ? "backup" : "primary") : "";
  };
  const set = (id: string, place: Place) => {
    const rest = d.members.filter((m) => m.operatorId !== id);
    change({ members: place ? [...rest, { operatorId: id, backup: place === "backup" }] : rest });
  };
  return (
    <fieldset className="members">
      <legend>
        <Trans>Members. Backup members get chats when no primary member has room.</Trans>
      </legend>
      <Places
        rows={people
          .filter((p) => p.active)
          .map((p) => ({ id: p.id ?? "", name: p.name, place: placeOf(p.id ?? "") }))}
        change={set}
      />
    </fieldset>
  );
}

function OverflowSteps({ d, others, change }: PartProps & { others: DepartmentSettings[] }) {
  const toggle = (id: string, on: boolean) =>
    change({ overflowTo: on ? [...d.overflowTo, id] : d.overflowTo.filter((o) => o !== id) });
  if (others.length === 0)
    return (
      <p className="hint">
        <Trans>There are no other departments yet.</Trans>
      </p>
    );
  return (
    <div className="ticks">
      {others.map((o) => (
        <Tick key={o.id} checked={d.overflowTo.includes(o.id ?? "")} change={(on) => toggle(o.id ?? "", on)}>
          {o.name}
          {d.overflowTo.includes(o.id ?? "") ? ` (${d.overflowTo.indexOf(o.id ?? "") + 1}.)` : ""}
        </Tick>
      ))}
    </div>
  );
}
