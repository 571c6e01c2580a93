import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { listed } from "../../shared/format";
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
  { value: "page.url", label: t`Page address` },
  { value: "page.title", label: t`Page title` },
  { value: "referrer", label: t`Came from (address)` },
  { value: "country", label: t`Country` },
  { value: "language", label: t`Language` },
  { value: "device", label: t`Device` },
  { value: "widget", label: t`Widget key` },
  { value: "visits", label: t`Number of visits` },
  { value: "basket", label: t`Basket value` },
  { value: "hour", label: t`Hour of the day` },
  { value: "form.", label: t`Form answer …` },
  { value: "contact.", label: t`Contact field …` },
  { value: "outside.", label: t`Outside field …` },
];

const operators = [
  { value: "contains", label: t`contains` },
  { value: "equals", label: t`is` },
  { value: "not", label: t`is not` },
  { value: "starts", label: t`starts with` },
  { value: "matches", label: t`matches the pattern` },
  { value: "in", label: t`is one of` },
  { value: "at-least", label: t`is at least` },
  { value: "at-most", label: t`is at most` },
];

/** Puts a rule into one line of words. */
export function ruleWords(rule: Rule, departments: DepartmentSettings[], people: PersonSettings[]): string {
  const conditions = rule.conditions.map((c) => {
    const field = fieldChoices.find((f) => f.value === c.field)?.label.toLowerCase() ?? c.field;
    return `${field} ${operators.find((o) => o.value === c.operator)?.label ?? c.operator} “${c.value}”`;
  });
  const follows = [
    rule.department
      ? (departments.find((d) => d.id === rule.department)?.name ?? t`a removed department`)
      : "",
    rule.accountOwner ? t`account owner first` : "",
    rule.operator ? firstWords(people.find((p) => p.id === rule.operator)?.name) : "",
    rule.priority ? t`priority ${rule.priority}` : "",
  ].filter(Boolean);
  const when = conditions.length === 0 ? t`Every chat` : whenWords(conditions, rule.match === "any");
  return `${when} → ${follows.join(", ") || t`nothing yet`}`;
}

function firstWords(name: string | undefined): string {
  return name ? t`${name} first` : t`somebody who left first`;
}

/** Puts conditions into one phrase, of which any or each must hold. */
function whenWords(conditions: string[], any: boolean): string {
  const all = listed(conditions, any ? "disjunction" : "conjunction");
  return t`When ${all}`;
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
          label={t`Name`}
          value={rule.name}
          change={(value) => change({ ...rule, name: value })}
          wrong={wrong("name")}
          hint={t`Shown as the reason on each chat`}
          most={80}
        />
        <Select
          label={t`Conditions`}
          value={rule.match}
          change={(match) => change({ ...rule, match: match as Rule["match"] })}
          wrong={wrong("match")}
          options={[
            { value: "all", label: t`all must hold` },
            { value: "any", label: t`one is enough` },
          ]}
        />
      </div>
      <ul className="conditions">
        {rule.conditions.map((c, j) => (
          <li key={j}>
            <ConditionRow condition={c} change={(part) => setCondition(j, part)} />
            <button
              className="link"
              aria-label={t`Remove this condition`}
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
        <Trans>Add condition</Trans>
      </Button>
      <h3>
        <Trans>Then</Trans>
      </h3>
      <div className="fields">
        <Select
          label={t`Department`}
          value={rule.department ?? ""}
          change={(department) => change({ ...rule, department })}
          wrong={wrong("department")}
          options={[
            { value: "", label: t`as it would be` },
            ...departments.map((d) => ({ value: d.id ?? "", label: d.name })),
          ]}
        />
        <Select
          label={t`Preferred operator`}
          value={rule.operator ?? ""}
          change={(operator) => change({ ...rule, operator })}
          wrong={wrong("operator")}
          options={[
            { value: "", label: t`nobody in particular` },
            ...people.map((p) => ({ value: p.id ?? "", label: p.name })),
          ]}
        />
        <Select
          label={t`Priority`}
          value={String(rule.priority ?? 0)}
          change={(priority) => change({ ...rule, priority: Number(priority) })}
          wrong={wrong("priority")}
          options={[-3, 0, 1, 2, 3, 5, 9].map((n) => ({
            value: String(n),
            label: n === 0 ? t`normal` : n > 0 ? t`${n}, sooner` : t`${n}, later`,
          }))}
        />
      </div>
      <div className="row">
        <Tick
          checked={rule.accountOwner ?? false}
          change={(accountOwner) => change({ ...rule, accountOwner })}
        >
          <Trans>The customer’s own account owner first, if they have room</Trans>
        </Tick>
        <Button startIcon={<Icons.Bin />} onClick={remove}>
          <Trans>Remove rule</Trans>
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
        label={t`Field`}
        value={open ?? condition.field}
        options={fieldChoices}
        change={(field) => change({ field })}
      />
      {open ? (
        <input
          aria-label={t`Name of the field`}
          placeholder={t`name`}
          className="field-name"
          value={condition.field.slice(open.length)}
          onChange={(e) => change({ field: open + e.target.value.trim() })}
        />
      ) : null}
      <Select
        bare
        label={t`Comparison`}
        value={condition.operator}
        options={operators}
        change={(operator) => change({ operator: operator as Condition["operator"] })}
      />
      <input
        aria-label={t`Value`}
        className="value"
        value={condition.value}
        placeholder={condition.operator === "in" ? t`one, two, three` : t`value`}
        onChange={(e) => change({ value: e.target.value })}
      />
    </>
  );
}
