import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { Condition, DepartmentSettings, Flow, FlowCase, FlowStep } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { TextField } from "../../kit/text-field";
import { Conditions } from "../conditions";
import { answersOf, kindAbout, kinds, kindWords, nameFrom, newStep, stepTitle, textsWithout } from "./steps";

/** What conditions of a flow can ask for. */
const known = [
  "page.url",
  "page.title",
  "language",
  "country",
  "source",
  "hour",
  "open",
  "words",
  "visits",
  "basket",
  "answer.",
  "form.",
  "contact.",
  "outside.",
  "vouched.",
];

interface Props {
  flow: Flow;
  step: FlowStep;
  change: (flow: Flow) => void;
  departments: DepartmentSettings[];
  wrong: (field: string) => string | undefined;
  /** Opens a step that was made here. */
  open: (id: string) => void;
}

/** One step: what it does, and where it goes on. */
export function StepEditor({ flow, step, change, departments, wrong, open }: Props) {
  const put = (part: Partial<FlowStep>) =>
    change({ ...flow, steps: flow.steps.map((s) => (s.id === step.id ? { ...s, ...part } : s)) });
  const become = (kind: FlowStep["kind"]) => {
    const fresh = newStep(flow, kind);
    put({
      kind,
      sort: fresh.sort,
      check: fresh.check,
      choices: step.choices.length > 0 ? step.choices : fresh.choices,
      cases: step.cases.length > 0 ? step.cases : fresh.cases,
    });
  };
  const goes = (label: string, field: string, value: string, to: (id: string) => void, none: string) => (
    <GoesTo
      flow={flow}
      label={label}
      value={value}
      none={none}
      wrong={wrong(field)}
      change={to}
      make={(kind) => {
        // The way to the new step, and the step, in one change: the second would not know of the first.
        const made = newStep(flow, kind);
        const at = flow.steps.findIndex((s) => s.id === step.id);
        const steps = flow.steps.map((s) => (s.id === step.id ? withWay(s, field, made.id) : s));
        steps.splice(at + 1, 0, made);
        change({ ...flow, steps });
        open(made.id);
      }}
    />
  );
  const answers = answersOf(flow);
  const inBraces = `{${step.name}}`;
  const choose = (
    label: string,
    field: string,
    value: string,
    name: (name: string) => void,
    none: string,
  ) => (
    <Select
      label={label}
      value={answers.some((a) => a.value === value) ? value : ""}
      change={name}
      wrong={wrong(field)}
      options={[{ value: "", label: none }, ...answers]}
    />
  );
  return (
    <div className="step-body">
      <div className="fields">
        <Select
          label={t`What it does`}
          value={step.kind}
          change={(kind) => become(kind as FlowStep["kind"])}
          wrong={wrong("kind")}
          options={kinds.map((k) => ({ value: k, label: kindWords(k) }))}
        />
        {step.kind === "ask" ? (
          <Select
            label={t`The answer is`}
            value={step.sort}
            change={(sort) => put({ sort: sort as FlowStep["sort"] })}
            wrong={wrong("sort")}
            options={[
              { value: "words", label: t`any words` },
              { value: "email", label: t`an email address` },
              { value: "number", label: t`a number` },
              { value: "date", label: t`a date` },
            ]}
          />
        ) : null}
        {step.kind === "ask" || step.kind === "choose" ? (
          <TextInput
            label={t`The team calls it`}
            value={step.label}
            change={(label) => put({ label, name: label.trim() ? nameFrom(label) : "" })}
            wrong={wrong("name")}
            hint={
              step.name
                ? t`Stored as ${step.name}; ${inBraces} puts it into later texts`
                : t`The answer is shown to the team under this name`
            }
            most={80}
          />
        ) : null}
        {step.kind === "articles"
          ? choose(
              t`The question is`,
              "look",
              step.look,
              (look) => put({ look }),
              t`what the visitor wrote last`,
            )
          : null}
        {step.kind === "booking" ? (
          <>
            {choose(t`Booking number`, "name", step.name, (name) => put({ name }), t`choose the answer`)}
            {choose(
              t`Name it was booked in`,
              "person",
              step.person,
              (person) => put({ person }),
              t`choose the answer`,
            )}
          </>
        ) : null}
        {step.kind === "tag" ? (
          <TextInput
            label={t`Tags`}
            value={step.tags.join(", ")}
            change={(typed) => put({ tags: typed.split(",").map((tag) => tag.trimStart()) })}
            wrong={wrong("tags")}
            hint={t`With commas between them`}
          />
        ) : null}
        {step.kind === "hand-over" ? (
          <Select
            label={t`Department`}
            value={step.department}
            change={(department) => put({ department })}
            wrong={wrong("department")}
            options={[
              { value: "", label: t`as the rules say` },
              ...departments.map((d) => ({ value: d.id ?? "", label: d.name })),
            ]}
          />
        ) : null}
      </div>
      <p className="about">{kindAbout(step.kind)}</p>
      {step.kind !== "branch" && step.kind !== "tag" ? (
        <TextField
          label={
            step.kind === "articles" || step.kind === "booking"
              ? t`Said before what was found`
              : t`What it says`
          }
          value={step.text}
          multiline
          minRows={2}
          fullWidth
          error={wrong("text") !== undefined}
          helperText={wrong("text")}
          onChange={(e) => put({ text: e.target.value })}
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { maxLength: 1000 } }}
        />
      ) : null}
      {step.kind === "articles" ? (
        <Tick checked={step.check} change={(check) => put({ check })}>
          <Trans>Ask whether the answer helped. Without it, the helper goes on at once.</Trans>
        </Tick>
      ) : null}
      {step.kind === "choose" ? (
        <Choices
          step={step}
          put={put}
          wrong={wrong}
          remove={(at) =>
            change({
              ...flow,
              texts: textsWithout(flow, step.id, "choice", at),
              steps: flow.steps.map((s) =>
                s.id === step.id ? { ...s, choices: s.choices.filter((_, i) => i !== at) } : s,
              ),
            })
          }
          goes={goes}
        />
      ) : null}
      {step.kind === "branch" ? (
        <Cases
          step={step}
          put={put}
          wrong={wrong}
          remove={(at) =>
            change({
              ...flow,
              texts: textsWithout(flow, step.id, "keywords", at),
              steps: flow.steps.map((s) =>
                s.id === step.id ? { ...s, cases: s.cases.filter((_, i) => i !== at) } : s,
              ),
            })
          }
          goes={goes}
        />
      ) : null}
      <div className="fields ways">
        {step.kind === "hand-over" || step.kind === "message" || step.kind === "end" || step.kind === "choose"
          ? null
          : goes(nextWords(step.kind), "next", step.next, (next) => put({ next }), t`choose`)}
        {["ask", "choose", "articles", "booking", "hand-over"].includes(step.kind)
          ? goes(
              otherwiseWords(step.kind),
              "otherwise",
              step.otherwise,
              (otherwise) => put({ otherwise }),
              noneWords(step.kind),
            )
          : null}
        {step.kind === "ask" ? (
          <TextInput
            label={t`When it does not fit`}
            value={step.retry}
            change={(retry) => put({ retry })}
            wrong={wrong("retry")}
            placeholder={t`the usual words`}
            most={1000}
          />
        ) : null}
      </div>
    </div>
  );
}

function nextWords(kind: FlowStep["kind"]): string {
  if (kind === "articles" || kind === "booking") return t`Found: then`;
  return kind === "branch" ? t`Otherwise` : t`Then`;
}

function otherwiseWords(kind: FlowStep["kind"]): string {
  switch (kind) {
    case "articles":
      return t`Not found, or no help: then`;
    case "booking":
      return t`Not found: then`;
    case "choose":
      return t`They write something else: then`;
    case "hand-over":
      return t`Nobody is in: then`;
    default:
      return t`Asked three times in vain: then`;
  }
}

function noneWords(kind: FlowStep["kind"]): string {
  if (kind === "hand-over") return t`keep it as a message`;
  if (kind === "choose") return t`ask again, then hand over`;
  return kind === "ask" ? t`hand over` : t`choose`;
}

function withWay(step: FlowStep, field: string, to: string): FlowStep {
  const [list, at] = field.split(".");
  const n = Number(at);
  if (list === "choices")
    return { ...step, choices: step.choices.map((c, i) => (i === n ? { ...c, next: to } : c)) };
  if (list === "cases")
    return { ...step, cases: step.cases.map((c, i) => (i === n ? { ...c, next: to } : c)) };
  return field === "next" ? { ...step, next: to } : { ...step, otherwise: to };
}

type Goes = (
  label: string,
  field: string,
  value: string,
  to: (id: string) => void,
  none: string,
) => React.ReactNode;

interface ListProps {
  step: FlowStep;
  put: (part: Partial<FlowStep>) => void;
  wrong: (field: string) => string | undefined;
  remove: (at: number) => void;
  goes: Goes;
}

function Choices({ step, put, wrong, remove, goes }: ListProps) {
  const edit = (at: number, part: Partial<FlowStep["choices"][number]>) =>
    put({ choices: step.choices.map((c, i) => (i === at ? { ...c, ...part } : c)) });
  return (
    <>
      <ul className="step-list">
        {step.choices.map((c, i) => (
          <li key={i} className="row">
            <TextInput
              label={t`Choice ${i + 1}`}
              value={c.label}
              change={(label) => edit(i, { label })}
              wrong={wrong(`choices.${i}.label`)}
              most={80}
            />
            {goes(t`Then`, `choices.${i}.next`, c.next, (next) => edit(i, { next }), t`choose`)}
            <Button aria-label={t`Remove choice ${i + 1}`} onClick={() => remove(i)}>
              <Icons.Bin />
            </Button>
          </li>
        ))}
      </ul>
      <Wrong words={wrong("choices")} />
      <Button
        startIcon={<Icons.Plus />}
        disabled={step.choices.length >= 8}
        onClick={() => put({ choices: [...step.choices, { label: "", next: "" }] })}
      >
        <Trans>Add a choice</Trans>
      </Button>
    </>
  );
}

function Cases({ step, put, wrong, remove, goes }: ListProps) {
  const edit = (at: number, part: Partial<FlowCase>) =>
    put({ cases: step.cases.map((c, i) => (i === at ? { ...c, ...part } : c)) });
  return (
    <>
      <ol className="step-list cases">
        {step.cases.map((c, i) => (
          <li key={i}>
            <div className="row">
              <TextInput
                label={t`The visitor wrote one of`}
                value={c.keywords.join(", ")}
                change={(typed) =>
                  edit(i, { keywords: typed === "" ? [] : typed.split(",").map((k) => k.trimStart()) })
                }
                wrong={wrong(`cases.${i}.keywords`) ?? wrong(`cases.${i}`)}
                placeholder={t`anything`}
                hint={i === 0 ? t`Words with commas between them; refund* also means refunded` : undefined}
              />
              {goes(t`Then`, `cases.${i}.next`, c.next, (next) => edit(i, { next }), t`choose`)}
              <Button aria-label={t`Remove case ${i + 1}`} onClick={() => remove(i)}>
                <Icons.Bin />
              </Button>
            </div>
            {c.if.length > 1 ? (
              <Select
                label={t`Which must hold`}
                value={c.match}
                change={(match) => edit(i, { match: match as FlowCase["match"] })}
                options={[
                  { value: "all", label: t`all of them` },
                  { value: "any", label: t`one of them` },
                ]}
              />
            ) : null}
            <Conditions
              list={c.if as Condition[]}
              change={(list) => edit(i, { if: list as FlowCase["if"] })}
              wrong={(n) => wrong(`cases.${i}.if.${n}`)}
              fields={known}
            />
          </li>
        ))}
      </ol>
      <Wrong words={wrong("cases")} />
      <Button
        startIcon={<Icons.Plus />}
        disabled={step.cases.length >= 20}
        onClick={() => put({ cases: [...step.cases, { keywords: [], match: "all", if: [], next: "" }] })}
      >
        <Trans>Add a case</Trans>
      </Button>
    </>
  );
}

interface GoesProps {
  flow: Flow;
  label: string;
  value: string;
  /** What it means to lead nowhere. */
  none: string;
  wrong: string | undefined;
  change: (id: string) => void;
  make: (kind: FlowStep["kind"]) => void;
}

const fresh = "new step: ";

/** Where a step goes on: to one of the others, or to one that is made here. */
function GoesTo({ flow, label, value, none, wrong, change, make }: GoesProps) {
  const there = value === "" || flow.steps.some((s) => s.id === value);
  return (
    <Select
      label={label}
      value={there ? value : ""}
      wrong={wrong}
      change={(to) => (to.startsWith(fresh) ? make(to.slice(fresh.length) as FlowStep["kind"]) : change(to))}
      options={[
        { value: "", label: there ? none : t`(a step that is gone)` },
        ...flow.steps.map((s) => ({ value: s.id, label: stepTitle(flow, s.id) })),
        ...kinds.map((k) => ({ value: fresh + k, label: `+ ${t`New step`}: ${kindWords(k)}` })),
      ]}
    />
  );
}
