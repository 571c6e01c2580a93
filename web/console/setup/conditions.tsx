import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { listed } from "../../shared/format";
import type { Condition } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Select } from "../kit/select";
import { Wrong } from "../kit/states";

/** What conditions can ask for. Fields that end in a dot are completed by a name. */
const fieldChoices = [
  { value: "page.url", label: t`Page address` },
  { value: "page.title", label: t`Page title` },
  { value: "referrer", label: t`Came from (address)` },
  { value: "country", label: t`Country` },
  { value: "language", label: t`Language` },
  { value: "device", label: t`Device` },
  { value: "channel", label: t`Channel (site, text, email)` },
  { value: "widget", label: t`Widget key` },
  { value: "visits", label: t`Number of visits` },
  { value: "basket", label: t`Basket value` },
  { value: "hour", label: t`Hour of the day` },
  { value: "page.seconds", label: t`Seconds on the page` },
  { value: "site.seconds", label: t`Seconds on the site` },
  { value: "pages", label: t`Pages looked at` },
  { value: "form.seconds", label: t`Seconds idle in a form` },
  { value: "basket.change", label: t`Change of the basket` },
  { value: "score", label: t`Interest` },
  { value: "topics", label: t`Topics looked at` },
  { value: "source", label: t`Came by (direct, search, …)` },
  { value: "campaign", label: t`Campaign` },
  { value: "returning", label: t`Has been here before (yes, no)` },
  { value: "open", label: t`Somebody is in (yes, no)` },
  { value: "words", label: t`What the visitor said last` },
  { value: "answer.", label: t`Answer given to the helper …` },
  { value: "form.", label: t`Form answer …` },
  { value: "contact.", label: t`Contact field …` },
  { value: "outside.", label: t`Outside field …` },
  { value: "vouched.", label: t`Signed by the site (trusted) …` },
];

/** What is known only while the helper speaks with somebody. */
const helpers = ["open", "words", "answer."];

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

/** Puts one condition into words. */
export function conditionWords(c: Condition): string {
  const field = fieldChoices.find((f) => f.value === c.field)?.label.toLowerCase() ?? c.field;
  return `${field} ${operators.find((o) => o.value === c.operator)?.label ?? c.operator} “${c.value}”`;
}

/** Puts conditions into one phrase, of which any or each must hold. */
export function whenWords(conditions: string[], any: boolean): string {
  const all = listed(conditions, any ? "disjunction" : "conjunction");
  return t`When ${all}`;
}

interface Props {
  list: Condition[];
  change: (list: Condition[]) => void;
  /** What is wrong with one of them. */
  wrong: (index: number) => string | undefined;
  /** What a new one asks for. */
  first?: Condition;
  /** Fields that can be asked for; all if it is left out. */
  fields?: readonly string[];
}

/** Conditions of a rule, to be added, changed and taken away. */
export function Conditions({ list, change, wrong, first, fields }: Props) {
  return (
    <>
      <ul className="conditions">
        {list.map((c, j) => (
          <li key={j}>
            <ConditionRow
              condition={c}
              fields={fields}
              change={(part) => change(list.map((one, i) => (i === j ? { ...one, ...part } : one)))}
            />
            <button
              className="link"
              aria-label={t`Remove this condition`}
              onClick={() => change(list.filter((_, i) => i !== j))}
            >
              <Icons.Close />
            </button>
            <Wrong words={wrong(j)} />
          </li>
        ))}
      </ul>
      <Button
        startIcon={<Icons.Plus />}
        onClick={() => change([...list, first ?? { field: "page.url", operator: "contains", value: "" }])}
      >
        <Trans>Add condition</Trans>
      </Button>
    </>
  );
}

function ConditionRow({
  condition,
  fields,
  change,
}: {
  condition: Condition;
  fields: readonly string[] | undefined;
  change: (part: Partial<Condition>) => void;
}) {
  const open = ["answer.", "form.", "contact.", "outside.", "vouched."].find((prefix) =>
    condition.field.startsWith(prefix),
  );
  return (
    <>
      <Select
        bare
        label={t`Field`}
        value={open ?? condition.field}
        options={fieldChoices.filter((f) => (fields ? fields.includes(f.value) : !helpers.includes(f.value)))}
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
