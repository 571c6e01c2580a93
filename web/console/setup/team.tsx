import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, ask } from "../../shared/api";
import type { DepartmentSettings, PersonSettings } from "../../shared/types";
import { useEdited, useEditing } from "../forms/editing";
import { Picker, type Place, Places, SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { roleWords, stateWords } from "../words/codes";

const fresh: PersonSettings = {
  version: 0,
  name: "",
  email: "",
  role: "operator",
  active: true,
  capacity: 0,
  percent: 100,
  languages: [],
  departments: [],
  load: 0,
  shownName: "",
  welcome: "",
  factor: false,
  joined: false,
};

/** The team: people, their roles, departments and capacity. */
export function TeamPage() {
  const people = useQuery({
    queryKey: ["setup", "people"],
    queryFn: () => ask(api.GET("/api/setup/people")),
  });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("person");
  const failed = [people, departments].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!people.data || !departments.data) return <section className="loading" aria-busy="true" />;
  const all = people.data;
  const shown = open === "new" ? fresh : (all.find((p) => p.id === open) ?? all[0] ?? fresh);
  return (
    <div className="two">
      <Picker
        title={t`Team`}
        shown={shown.id}
        pick={setOpen}
        newUnsaved={edited.has("new")}
        items={all.map((p) => ({
          id: p.id ?? "",
          name: p.name,
          unsaved: edited.has(p.id ?? ""),
          about: (
            <span>
              {roleWords(p.role)} ·{" "}
              {!p.active ? t`cannot log in` : p.joined ? stateWords(p.state ?? "offline") : t`invited`}
              {p.percent < 100 ? ` · ${p.percent} %` : ""}
            </span>
          ),
        }))}
      />
      <PersonForm key={shown.id ?? "new"} kept={shown} departments={departments.data} onSaved={setOpen} />
    </div>
  );
}

interface FormProps {
  kept: PersonSettings;
  departments: DepartmentSettings[];
  onSaved: (id: string) => void;
}

/** Somebody as they are edited: languages are typed as one text. */
export type EditedPerson = PersonSettings & { languagesTyped: string };

/** What is saved of somebody who is edited. */
export function personOf({ languagesTyped, ...person }: EditedPerson): PersonSettings {
  return { ...person, languages: languagesTyped.split(/[\s,]+/).filter(Boolean) };
}

function PersonForm({ kept, departments, onSaved }: FormProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  // Languages are typed as one text. A password is not kept with what is edited:
  // it would lie readable in the browser.
  const stored = useMemo(() => ({ ...kept, languagesTyped: kept.languages.join(", ") }), [kept]);
  const edit = useEditing(`person.${kept.id ?? "new"}`, stored);
  const [password, setPassword] = useState("");
  const editing = {
    ...edit,
    changed: edit.changed || password !== "",
    undo: () => {
      edit.undo();
      setPassword("");
    },
  };
  const { languagesTyped, ...p } = edit.value;
  const change = (part: Partial<typeof stored>) => {
    edit.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        const body = { ...personOf(edit.value), ...(password ? { password } : {}) };
        const saved = await ask(api.PUT("/api/setup/people", { body }));
        edit.saved({ ...saved, languagesTyped: saved.languages.join(", ") }, `person.${saved.id ?? "new"}`);
        if (!kept.id && !saved.joined)
          await ask(
            api.POST("/api/setup/people/{id}/invitation", { params: { path: { id: saved.id ?? "" } } }),
          );
        setPassword((now) => (now === password ? "" : now));
        await queries.invalidateQueries({ queryKey: ["setup"] });
        onSaved(saved.id ?? "");
      },
      t`${p.name} saved`,
    );
  const place = (id: string): Place => {
    const found = p.departments.find((d) => d.departmentId === id);
    return found ? (found.backup ? "backup" : "primary") : "";
  };
  const setPlace = (id: string, where: Place) => {
    const rest = p.departments.filter((d) => d.departmentId !== id);
    change({ departments: where ? [...rest, { departmentId: id, backup: where === "backup" }] : rest });
  };
  return (
    <section className="editor" aria-label={p.name || t`New person`}>
      <header>
        <h2>{kept.id ? kept.name : t`New person`}</h2>
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label={t`Name`}
            value={p.name}
            change={(name) => change({ name })}
            wrong={wrongAt("name")}
            hint={t`As colleagues and visitors see it`}
            most={80}
          />
          <TextInput
            label={t`Email`}
            value={p.email}
            change={(email) => change({ email })}
            wrong={wrongAt("email")}
            hint={t`For logging in`}
            most={254}
          />
          <Select
            label={t`Role`}
            value={p.role}
            change={(v) => change({ role: v as PersonSettings["role"] })}
            wrong={wrongAt("role")}
            options={[
              { value: "operator", label: t`operator: answers chats` },
              { value: "lead", label: t`lead: also reads all transcripts` },
              { value: "admin", label: t`admin: also changes Setup` },
            ]}
          />
          <TextField
            label={kept.joined ? t`New password` : t`Password, instead of an invitation`}
            size="small"
            type="password"
            autoComplete="new-password"
            value={password}
            error={wrongAt("password") !== undefined}
            helperText={
              wrongAt("password") ??
              (kept.joined
                ? t`Leave empty to keep the current one`
                : t`Leave empty: they are invited by email and choose their own`)
            }
            onChange={(e) => {
              setPassword(e.target.value);
              saving.clear();
            }}
            slotProps={{ inputLabel: { shrink: true } }}
          />
        </div>
        <h3>
          <Trans>Capacity</Trans>
        </h3>
        <div className="fields">
          <NumberField
            label={t`Chats at once`}
            value={p.capacity}
            change={(capacity) => change({ capacity })}
            wrong={wrongAt("capacity")}
            none={t`as set for the department`}
          />
          <NumberField
            label={t`Share of that`}
            unit="%"
            value={p.percent}
            change={(percent) => change({ percent })}
            wrong={wrongAt("percent")}
            hint={t`For example 50 for a beginner: half the chats`}
          />
          <TextInput
            label={t`Languages`}
            value={languagesTyped}
            placeholder={t`en, da`}
            change={(languagesTyped) => change({ languagesTyped })}
            hint={t`Codes, separated by commas`}
          />
        </div>
        <h3>
          <Trans>Departments</Trans>
        </h3>
        <Places
          rows={departments.map((d) => ({ id: d.id ?? "", name: d.name, place: place(d.id ?? "") }))}
          change={setPlace}
        />
        <Wrong words={wrongAt("departments")} />
        <h3>
          <Trans>What visitors see</Trans>
        </h3>
        <div className="fields">
          <TextInput
            label={t`Name that visitors see`}
            value={p.shownName}
            change={(shownName) => change({ shownName })}
            placeholder={p.name}
            most={80}
          />
          <TextInput
            label={t`Welcome`}
            value={p.welcome}
            change={(welcome) => change({ welcome })}
            hint={t`Said to visitors when they take a chat, as automatic`}
            most={300}
          />
          {kept.photo ? <img src={kept.photo} alt={t`Photo of ${kept.name}`} width={48} height={48} /> : null}
        </div>
        <h3>
          <Trans>Access</Trans>
        </h3>
        {kept.id && !kept.joined && kept.active ? <Invite person={kept} /> : null}
        {kept.factor ? <LostFactor person={kept} /> : null}
        <Tick checked={p.active} change={(active) => change({ active })}>
          <Trans>Can log in. If you untick this, their open chats go back to the queue at once.</Trans>
        </Tick>
        <Wrong words={wrongAt("active")} />
      </div>
      <SaveBar tryOut saving={saving} editing={editing} save={save} />
    </section>
  );
}

/** Invites somebody who cannot log in yet; without mail the link is there to hand on. */
function Invite({ person }: { person: PersonSettings }) {
  const saving = useSaving();
  const [link, setLink] = useState("");
  const invite = () =>
    void saving.run(
      async () => {
        const params = { path: { id: person.id ?? "" } };
        const sent = await ask(api.POST("/api/setup/people/{id}/invitation", { params }));
        setLink(sent.link ?? "");
      },
      t`${person.name} invited`,
    );
  return (
    <div className="invite">
      <p>
        <Trans>They have not joined yet. The invitation works once, for a week; a new one replaces it.</Trans>
      </p>
      <Button variant="outlined" onClick={invite} disabled={saving.busy}>
        <Trans>Send a new invitation</Trans>
      </Button>
      <Wrong words={saving.trouble} />
      {link ? (
        <p>
          <Trans>No mail can be sent from here. Give them this link yourself:</Trans> <code>{link}</code>
        </p>
      ) : null}
    </div>
  );
}

/** Lets somebody in again who lost their device and their recovery codes. */
function LostFactor({ person }: { person: PersonSettings }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const reset = () =>
    void saving.run(
      async () => {
        const params = { path: { id: person.id ?? "" } };
        await ask(api.DELETE("/api/setup/people/{id}/factor", { params }));
        await queries.invalidateQueries({ queryKey: ["setup", "people"] });
      },
      t`Two-factor of ${person.name} is off, and they are logged out`,
    );
  return (
    <div className="invite">
      <p>
        <Trans>
          Two-factor is on. If they lost their device and their codes, switch it off, once you are sure that
          it is they who ask.
        </Trans>
      </p>
      <Button variant="outlined" onClick={reset} disabled={saving.busy}>
        <Trans>Switch off their two-factor</Trans>
      </Button>
      <Wrong words={saving.trouble} />
    </div>
  );
}
