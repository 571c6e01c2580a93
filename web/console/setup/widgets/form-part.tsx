import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { FormField } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { TextField } from "../../kit/text-field";
import type { PartProps } from "./editor";

function kindName(kind: string): string {
  switch (kind) {
    case "text":
      return t`A line of text`;
    case "long":
      return t`Several lines`;
    case "email":
      return t`Email address`;
    case "phone":
      return t`Phone number`;
    case "number":
      return t`Number`;
    case "choice":
      return t`One of some, all in view`;
    case "choices":
      return t`Any of some`;
    case "dropdown":
      return t`One of some, in a list`;
    case "datetime":
      return t`Date and time`;
    case "department":
      return t`Department`;
    case "consent":
      return t`Consent to tick`;
  }
  return kind;
}

const kinds = [
  "text",
  "long",
  "email",
  "phone",
  "number",
  "choice",
  "choices",
  "dropdown",
  "datetime",
  "department",
  "consent",
];
const withOptions = ["choice", "choices", "dropdown"];

/** Fields by these names become part of the contact. */
const ofContact = ["name", "email", "phone"];

function freshName(label: string, taken: string[]): string {
  const base =
    label
      .toLowerCase()
      .normalize("NFD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^[^a-z]+|-+$/g, "")
      .slice(0, 30) || "field";
  for (let n = 1; ; n++) {
    const name = n === 1 ? base : `${base}-${n}`;
    if (!taken.includes(name)) return name;
  }
}

/** What is asked before a chat: fields in their order, each depending on another or not. */
export function FormPart({ design, change, wrongAt }: PartProps) {
  const fields = design.form;
  const [open, setOpen] = useState(-1);
  const put = (form: FormField[]) => change({ form });
  const edit = (at: number, part: Partial<FormField>) =>
    put(fields.map((f, i) => (i === at ? { ...f, ...part } : f)));
  const move = (at: number, by: number) => {
    const list = [...fields];
    const [field] = list.splice(at, 1);
    if (!field) return;
    list.splice(at + by, 0, field);
    put(list);
    setOpen(open === at ? at + by : open);
  };
  const add = (label: string, kind: string, name?: string) => {
    const taken = fields.map((f) => f.name);
    put([...fields, { name: name ?? freshName(label, taken), kind, label } as FormField]);
    setOpen(fields.length);
  };
  return (
    <>
      <p className="about">
        <Trans>
          What a visitor is asked before a chat. Short is kind: each question costs you chats. Who is known is
          not asked again.
        </Trans>
      </p>
      <ol className="form-fields">
        {fields.map((field, i) => (
          <li key={i} className={wrongAt(`form.${i}`) ? "amiss" : ""}>
            <div className="row">
              <button
                className="field-name"
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? -1 : i)}
              >
                <b>{field.label || t`(no label yet)`}</b>
                <small>
                  {kindName(field.kind)}
                  {field.required ? ` · ${t`required`}` : ""}
                  {field.showIf ? ` · ${t`depends on ${field.showIf.field}`}` : ""}
                </small>
              </button>
              <Button aria-label={t`Move ${field.label} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                <Icons.Up />
              </Button>
              <Button
                aria-label={t`Move ${field.label} down`}
                disabled={i === fields.length - 1}
                onClick={() => move(i, 1)}
              >
                <Icons.Down />
              </Button>
              <Button
                aria-label={t`Remove ${field.label}`}
                onClick={() => {
                  put(fields.filter((_, at) => at !== i));
                  setOpen(-1);
                }}
              >
                <Icons.Bin />
              </Button>
            </div>
            <Wrong words={wrongAt(`form.${i}`)} />
            {open === i ? (
              <FieldEditor field={field} before={fields.slice(0, i)} edit={(part) => edit(i, part)} />
            ) : null}
          </li>
        ))}
      </ol>
      <Wrong words={wrongAt("form")} />
      <div className="row adds">
        <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => add("", "text")}>
          <Trans>Add a field</Trans>
        </Button>
        {ofContact
          .filter((name) => !fields.some((f) => f.name === name))
          .map((name) => (
            <Button key={name} onClick={() => add(contactLabel(name), name === "name" ? "text" : name, name)}>
              + {contactLabel(name)}
            </Button>
          ))}
        {fields.some((f) => f.kind === "consent") ? null : (
          <Button onClick={() => add(t`I agree that what I write here is stored.`, "consent", "consent")}>
            + {t`Consent`}
          </Button>
        )}
      </div>
      {fields.length > 0 ? (
        <>
          <h3>
            <Trans>What operators see</Trans>
          </h3>
          <dl className="operators-see">
            {fields.map((f) => (
              <div key={f.name}>
                <dt>{ofContact.includes(f.name) ? contactLabel(f.name) : f.label || f.name}</dt>
                <dd>{sampleAnswer(f)}</dd>
              </div>
            ))}
          </dl>
        </>
      ) : null}
    </>
  );
}

function contactLabel(name: string): string {
  return name === "name" ? t`Name` : name === "email" ? t`Email` : t`Phone`;
}

function sampleAnswer(field: FormField): string {
  switch (field.kind) {
    case "email":
      return "wren@example.com";
    case "phone":
      return "+45 33 12 34 56";
    case "number":
      return "2";
    case "datetime":
      return "2026-12-24T18:30";
    case "consent":
      return t`yes`;
    case "department":
      return t`the department that was chosen`;
  }
  return field.options?.[0] ?? (field.name === "name" ? "Wren" : t`what was typed`);
}

interface FieldProps {
  field: FormField;
  before: FormField[];
  edit: (part: Partial<FormField>) => void;
}

function FieldEditor({ field, before, edit }: FieldProps) {
  const on = before.find((f) => f.name === field.showIf?.field);
  return (
    <div className="field-editor">
      <div className="fields">
        <TextInput
          label={t`Label`}
          value={field.label}
          change={(label) => edit({ label })}
          hint={field.kind === "consent" ? t`What the visitor agrees to, in full` : undefined}
          most={500}
        />
        <Select
          label={t`Kind`}
          value={field.kind}
          change={(kind) => edit({ kind })}
          options={kinds.map((k) => ({ value: k, label: kindName(k) }))}
        />
      </div>
      <Tick checked={field.required === true} change={(required) => edit({ required })}>
        {field.kind === "consent" ? (
          <Trans>Required: no chat begins without it</Trans>
        ) : (
          <Trans>Required</Trans>
        )}
      </Tick>
      {withOptions.includes(field.kind) ? (
        <TextField
          label={t`Options, one on each line`}
          size="small"
          multiline
          minRows={3}
          value={(field.options ?? []).join("\n")}
          onChange={(e) => edit({ options: e.target.value.split("\n") })}
          onBlur={() => edit({ options: (field.options ?? []).filter((o) => o.trim()) })}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      ) : null}
      {field.kind === "text" || field.kind === "long" || field.kind === "phone" ? (
        <Pattern field={field} edit={edit} />
      ) : null}
      <div className="fields">
        <Select
          label={t`Asked`}
          value={field.showIf?.field ?? ""}
          change={(name) => edit({ showIf: name ? { field: name, is: [] } : undefined })}
          options={[
            { value: "", label: t`always` },
            ...before.map((f) => ({ value: f.name, label: t`if “${f.label || f.name}” is` })),
          ]}
        />
        {field.showIf ? (
          on && withOptions.includes(on.kind) ? (
            <div className="languages">
              {(on.options ?? []).map((o) => (
                <Tick
                  key={o}
                  checked={(field.showIf?.is ?? []).includes(o)}
                  change={(ticked) => {
                    const is = (field.showIf?.is ?? []).filter((v) => v !== o);
                    edit({ showIf: { field: on.name, is: ticked ? [...is, o] : is } });
                  }}
                >
                  {o}
                </Tick>
              ))}
            </div>
          ) : (
            <TextInput
              label={t`One of these, with commas between them`}
              value={(field.showIf.is ?? []).join(", ")}
              change={(text) =>
                edit({
                  showIf: {
                    field: field.showIf?.field ?? "",
                    is: text ? text.split(",").map((v) => v.trimStart()) : [],
                  },
                })
              }
              placeholder={t`anything`}
            />
          )
        ) : null}
      </div>
      <TextInput
        label={t`Stored as`}
        value={field.name}
        change={(name) => edit({ name })}
        hint={t`By which rules and transcripts find the answer; name, email and phone go to the contact`}
        most={40}
      />
    </div>
  );
}

/** A pattern with a field to try it: the verdict is the one that the visitor will get. */
function Pattern({ field, edit }: Pick<FieldProps, "field" | "edit">) {
  const [answer, setAnswer] = useState("");
  const pattern = field.pattern ?? "";
  // What reads patterns comes when there is one to try.
  const tried = useQuery({
    queryKey: ["pattern", pattern, answer],
    queryFn: async () => (await import("../../../shared/patterns")).matches(pattern, answer),
    enabled: pattern !== "" && answer !== "",
    gcTime: 0,
  });
  const fits = pattern && answer ? tried.data : undefined;
  return (
    <>
      <div className="fields">
        <TextInput
          label={t`Pattern of the answer`}
          value={pattern}
          change={(p) => edit({ pattern: p })}
          placeholder={t`anything`}
          hint={t`A regular expression (RE2) for the whole answer, like ${"KF-[0-9]{5}"}`}
          most={300}
        />
        <TextInput
          label={t`Try an answer`}
          value={answer}
          change={setAnswer}
          hint={fits === undefined ? undefined : fits ? t`This is accepted.` : t`This is not accepted.`}
        />
      </div>
      {pattern ? (
        <TextInput
          label={t`What is said if it does not fit`}
          value={field.error ?? ""}
          change={(error) => edit({ error })}
          placeholder={t`This does not look right.`}
          most={500}
        />
      ) : null}
    </>
  );
}
