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
        title="Team"
        shown={shown.id}
        pick={setOpen}
        newUnsaved={edited.has("new")}
        items={all.map((p) => ({
          id: p.id ?? "",
          name: p.name,
          unsaved: edited.has(p.id ?? ""),
          about: (
            <span>
              {p.role} · {p.active ? (p.state ?? "offline") : "cannot log in"}
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
    void saving.run(async () => {
      const languages = languagesTyped.split(/[\s,]+/).filter(Boolean);
      const body = { ...p, languages, ...(password ? { password } : {}) };
      const saved = await ask(api.PUT("/api/setup/people", { body }));
      edit.saved({ ...saved, languagesTyped: saved.languages.join(", ") });
      setPassword("");
      await queries.invalidateQueries({ queryKey: ["setup"] });
      onSaved(saved.id ?? "");
    }, `${p.name} saved`);
  const place = (id: string): Place => {
    const found = p.departments.find((d) => d.departmentId === id);
    return found ? (found.backup ? "backup" : "primary") : "";
  };
  const setPlace = (id: string, where: Place) => {
    const rest = p.departments.filter((d) => d.departmentId !== id);
    change({ departments: where ? [...rest, { departmentId: id, backup: where === "backup" }] : rest });
  };
  return (
    <section className="editor" aria-label={p.name || "New person"}>
      <header>
        <h2>{kept.id ? kept.name : "New person"}</h2>
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label="Name"
            value={p.name}
            change={(name) => change({ name })}
            wrong={wrongAt("name")}
            hint="As colleagues and visitors see it"
            most={80}
          />
          <TextInput
            label="Email"
            value={p.email}
            change={(email) => change({ email })}
            wrong={wrongAt("email")}
            hint="For logging in"
            most={254}
          />
          <Select
            label="Role"
            value={p.role}
            change={(v) => change({ role: v as PersonSettings["role"] })}
            wrong={wrongAt("role")}
            options={[
              { value: "operator", label: "operator: answers chats" },
              { value: "lead", label: "lead: also reads all transcripts" },
              { value: "admin", label: "admin: also changes Setup" },
            ]}
          />
          <TextField
            label={kept.id ? "New password" : "Password"}
            size="small"
            type="password"
            autoComplete="new-password"
            value={password}
            error={wrongAt("password") !== undefined}
            helperText={
              wrongAt("password") ??
              (kept.id
                ? "Leave empty to keep the current one"
                : "At least 10 characters. Pass it on to them yourself")
            }
            onChange={(e) => {
              setPassword(e.target.value);
              saving.clear();
            }}
            slotProps={{ inputLabel: { shrink: true } }}
          />
        </div>
        <h3>Capacity</h3>
        <div className="fields">
          <NumberField
            label="Chats at once"
            value={p.capacity}
            change={(capacity) => change({ capacity })}
            wrong={wrongAt("capacity")}
            hint="Empty: as set for the department"
          />
          <NumberField
            label="Share of that"
            unit="%"
            value={p.percent}
            change={(percent) => change({ percent })}
            wrong={wrongAt("percent")}
            hint="For example 50 for a beginner: half the chats"
          />
          <TextInput
            label="Languages"
            value={languagesTyped}
            placeholder="en, da"
            change={(languagesTyped) => change({ languagesTyped })}
            hint="Codes, separated by commas"
          />
        </div>
        <h3>Departments</h3>
        <Places
          rows={departments.map((d) => ({ id: d.id ?? "", name: d.name, place: place(d.id ?? "") }))}
          change={setPlace}
        />
        <Wrong words={wrongAt("departments")} />
        <h3>Access</h3>
        <Tick checked={p.active} change={(active) => change({ active })}>
          Can log in. If you untick this, their open chats go back to the queue at once.
        </Tick>
        <Wrong words={wrongAt("active")} />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
