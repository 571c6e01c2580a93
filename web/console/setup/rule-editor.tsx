import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { DepartmentSettings, PersonSettings, Rule } from "../../shared/types";
import { Icons } from "../icons";
import type { Saving } from "../forms/saving";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { Conditions, conditionWords, whenWords } from "./conditions";

/** Puts a rule into one line of words. */
export function ruleWords(rule: Rule, departments: DepartmentSettings[], people: PersonSettings[]): string {
  const conditions = rule.conditions.map(conditionWords);
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
      <Conditions
        list={rule.conditions}
        change={(conditions) => change({ ...rule, conditions })}
        wrong={(j) => wrong(`conditions.${j}`)}
      />
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
