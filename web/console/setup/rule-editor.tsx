import type { Condition, DepartmentSettings, PersonSettings, Rule } from "../../shared/types";
import { Icons } from "../icons";
import type { Saving } from "../forms/saving";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { Wrong } from "../kit/states";

/** What conditions can ask for. Fields that end in a dot are completed by a name. */
export const fieldChoices = [
  { value: "page.url", label: "Page address" },
  { value: "page.title", label: "Page title" },
  { value: "referrer", label: "Came from (address)" },
  { value: "country", label: "Country" },
  { value: "language", label: "Language" },
  { value: "device", label: "Device" },
  { value: "widget", label: "Widget key" },
  { value: "visits", label: "Number of visits" },
  { value: "basket", label: "Basket value" },
  { value: "hour", label: "Hour of the day" },
  { value: "form.", label: "Form answer …" },
  { value: "contact.", label: "Contact field …" },
  { value: "outside.", label: "Outside field …" },
];

const operators = [
  { value: "contains", label: "contains" },
  { value: "equals", label: "is" },
  { value: "not", label: "is not" },
  { value: "starts", label: "starts with" },
  { value: "matches", label: "matches the pattern" },
  { value: "in", label: "is one of" },
  { value: "at-least", label: "is at least" },
  { value: "at-most", label: "is at most" },
];

/** Puts a rule into one line of words. */
export function ruleWords(rule: Rule, departments: DepartmentSettings[], people: PersonSettings[]): string {
  const conditions = rule.conditions.map((c) => {
    const field = fieldChoices.find((f) => f.value === c.field)?.label.toLowerCase() ?? c.field;
    return `${field} ${operators.find((o) => o.value === c.operator)?.label ?? c.operator} “${c.value}”`;
  });
  const follows = [
    rule.department
      ? (departments.find((d) => d.id === rule.department)?.name ?? "a removed department")
      : "",
    rule.accountOwner ? "account owner first" : "",
    rule.operator ? `${people.find((p) => p.id === rule.operator)?.name ?? "somebody who left"} first` : "",
    rule.priority ? `priority ${rule.priority}` : "",
  ].filter(Boolean);
  const when =
    conditions.length === 0
      ? "Every chat"
      : `When ${conditions.join(rule.match === "any" ? " or " : " and ")}`;
  return `${when} → ${follows.join(", ") || "nothing yet"}`;
}

interface Props {
  rule: Rule;
  index: number;
  change: (rule: Rule) => void;
  remove: () => void;
  departments: DepartmentSettings[];
  people: PersonSettings[];
  saving: Saving;
}

/** One rule: its name, its conditions, and what follows. */
export function RuleEditor({ rule, index, change, remove, departments, people, saving }: Props) {
  const wrong = (part: string) => saving.wrongAt(`rules.${index}.${part}`);
  const setCondition = (j: number, part: Partial<Condition>) =>
    change({ ...rule, conditions: rule.conditions.map((c, i) => (i === j ? { ...c, ...part } : c)) });
  return (
    <div className="rule-body">
      <div className="fields">
        <TextInput
          label="Name"
          value={rule.name}
          change={(value) => change({ ...rule, name: value })}
          wrong={wrong("name")}
          hint="Shown as the reason on each chat"
          most={80}
        />
        <Select
          label="Conditions"
          value={rule.match}
          change={(match) => change({ ...rule, match: match as Rule["match"] })}
          wrong={wrong("match")}
          options={[
            { value: "all", label: "all must hold" },
            { value: "any", label: "one is enough" },
          ]}
        />
      </div>
      <ul className="conditions">
        {rule.conditions.map((c, j) => (
          <li key={j}>
            <ConditionRow condition={c} change={(part) => setCondition(j, part)} />
            <button
              className="link"
              aria-label="Remove this condition"
              onClick={() => change({ ...rule, conditions: rule.conditions.filter((_, i) => i !== j) })}
            >
              <Icons.Close />
            </button>
            <Wrong words={wrong(`conditions.${j}`)} />
          </li>
        ))}
      </ul>
      <Button
        startIcon={<Icons.Plus />}
        onClick={() =>
          change({
            ...rule,
            conditions: [...rule.conditions, { field: "page.url", operator: "contains", value: "" }],
          })
        }
      >
        Add condition
      </Button>
      <h3>Then</h3>
      <div className="fields">
        <Select
          label="Department"
          value={rule.department ?? ""}
          change={(department) => change({ ...rule, department })}
          wrong={wrong("department")}
          options={[
            { value: "", label: "as it would be" },
            ...departments.map((d) => ({ value: d.id ?? "", label: d.name })),
          ]}
        />
        <Select
          label="Preferred operator"
          value={rule.operator ?? ""}
          change={(operator) => change({ ...rule, operator })}
          wrong={wrong("operator")}
          options={[
            { value: "", label: "nobody in particular" },
            ...people.map((p) => ({ value: p.id ?? "", label: p.name })),
          ]}
        />
        <Select
          label="Priority"
          value={String(rule.priority ?? 0)}
          change={(priority) => change({ ...rule, priority: Number(priority) })}
          wrong={wrong("priority")}
          options={[-3, 0, 1, 2, 3, 5, 9].map((n) => ({
            value: String(n),
            label: n === 0 ? "normal" : n > 0 ? `${n}, sooner` : `${n}, later`,
          }))}
        />
      </div>
      <div className="row">
        <Tick
          checked={rule.accountOwner ?? false}
          change={(accountOwner) => change({ ...rule, accountOwner })}
        >
          The customer’s own account owner first, if they have room
        </Tick>
        <Button startIcon={<Icons.Bin />} onClick={remove}>
          Remove rule
        </Button>
      </div>
    </div>
  );
}

function ConditionRow({
  condition,
  change,
}: {
  condition: Condition;
  change: (part: Partial<Condition>) => void;
}) {
  const open = ["form.", "contact.", "outside."].find((prefix) => condition.field.startsWith(prefix));
  return (
    <>
      <Select
        bare
        label="Field"
        value={open ?? condition.field}
        options={fieldChoices}
        change={(field) => change({ field })}
      />
      {open ? (
        <input
          aria-label="Name of the field"
          placeholder="name"
          className="field-name"
          value={condition.field.slice(open.length)}
          onChange={(e) => change({ field: open + e.target.value.trim() })}
        />
      ) : null}
      <Select
        bare
        label="Comparison"
        value={condition.operator}
        options={operators}
        change={(operator) => change({ operator: operator as Condition["operator"] })}
      />
      <input
        aria-label="Value"
        className="value"
        value={condition.value}
        placeholder={condition.operator === "in" ? "one, two, three" : "value"}
        onChange={(e) => change({ value: e.target.value })}
      />
    </>
  );
}
