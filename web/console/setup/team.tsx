import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, ask } from "../../shared/api";
import type { DepartmentSettings, PersonSettings } from "../../shared/types";
import { useEdited, useEditing } from "../forms/editing";
import { Picker, type Place, Places, SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
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
              {roleWords(p.role)} · {p.active ? stateWords(p.state ?? "offline") : t`cannot log in`}
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
        const languages = languagesTyped.split(/[\s,]+/).filter(Boolean);
        const body = { ...p, languages, ...(password ? { password } : {}) };
        const saved = await ask(api.PUT("/api/setup/people", { body }));
        edit.saved({ ...saved, languagesTyped: saved.languages.join(", ") });
        setPassword("");
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
            label={kept.id ? t`New password` : t`Password`}
            size="small"
            type="password"
            autoComplete="new-password"
            value={password}
            error={wrongAt("password") !== undefined}
            helperText={
              wrongAt("password") ??
              (kept.id
                ? t`Leave empty to keep the current one`
                : t`At least 10 characters. Pass it on to them yourself`)
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
          <Trans>Access</Trans>
        </h3>
        <Tick checked={p.active} change={(active) => change({ active })}>
          <Trans>Can log in. If you untick this, their open chats go back to the queue at once.</Trans>
        </Tick>
        <Wrong words={wrongAt("active")} />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
