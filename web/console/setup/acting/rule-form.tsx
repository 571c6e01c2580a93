import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { ActingRule, ActingView, RuleAct } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { NumberField, TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { Conditions } from "../conditions";
import { ActEditor } from "./act-editor";
import { RunLog } from "./run-log";
import { Trial } from "./trial";
import { occasions } from "./words";

/** What rules can point at. */
export interface Choices {
  departments: { value: string; label: string }[];
  webhooks: { value: string; label: string }[];
  /** What can be done when, and what conditions can ask for: as the server says. */
  occasions: ActingView["occasions"];
  fields: readonly string[];
}

interface Props {
  rule: ActingRule;
  saved: boolean;
  choices: Choices;
  edit: (part: Partial<ActingRule>) => void;
  remove: () => void;
  wrong: (part: string) => string | undefined;
}

/** One rule: when it acts, in which chats, what it does, what it did, and what it would have done. */
export function RuleForm({ rule, saved, choices, edit, remove, wrong }: Props) {
  const occasion = choices.occasions.find((o) => o.when === rule.when);
  const act = (at: number, part: Partial<RuleAct>) =>
    edit({ do: rule.do.map((a, i) => (i === at ? { ...a, ...part } : a)) });
  return (
    <>
      <header>
        <h2>{rule.name || t`New rule`}</h2>
        <Button onClick={remove}>
          <Trans>Remove this rule</Trans>
        </Button>
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label={t`Name`}
            value={rule.name}
            change={(name) => edit({ name })}
            wrong={wrong(".name")}
            most={100}
          />
          <Select
            label={t`When`}
            value={rule.when}
            options={occasions()}
            change={(when) => edit({ when: when as ActingRule["when"] })}
          />
          {occasion?.timed ? (
            <NumberField
              label={t`For`}
              unit={t`seconds`}
              value={rule.seconds ?? 0}
              change={(seconds) => edit({ seconds })}
              wrong={wrong(".seconds")}
            />
          ) : null}
        </div>
        <Tick checked={rule.on} change={(on) => edit({ on })}>
          <Trans>In effect</Trans>
        </Tick>
        <h3>
          <Trans>What it does, in this order</Trans>
        </h3>
        <ol className="acts">
          {rule.do.map((a, i) => (
            <ActEditor
              key={i}
              act={a}
              number={i + 1}
              possible={occasion?.do ?? []}
              choices={choices}
              edit={(part) => act(i, part)}
              remove={() => edit({ do: rule.do.filter((_, at) => at !== i) })}
              wrong={wrong(`.do.${i}`)}
            />
          ))}
        </ol>
        <Wrong words={wrong(".do")} />
        <Button
          variant="outlined"
          startIcon={<Icons.Plus />}
          onClick={() => edit({ do: [...rule.do, { kind: "tag", tag: "" }] })}
        >
          <Trans>Add something to do</Trans>
        </Button>
        <h3>
          <Trans>Only in chats of these departments; nothing ticked is all</Trans>
        </h3>
        <div className="ticks">
          {choices.departments.map((d) => (
            <Tick
              key={d.value}
              checked={rule.departments.includes(d.value)}
              change={(on) =>
                edit({
                  departments: on
                    ? [...rule.departments, d.value]
                    : rule.departments.filter((id) => id !== d.value),
                })
              }
            >
              {d.label}
            </Tick>
          ))}
        </div>
        <Wrong words={wrong(".departments")} />
        <h3>
          <Trans>Only if</Trans>
        </h3>
        {rule.if.length > 1 ? (
          <Select
            label={t`Which of them`}
            value={rule.match}
            options={[
              { value: "all", label: t`all hold` },
              { value: "any", label: t`any holds` },
            ]}
            change={(match) => edit({ match: match as ActingRule["match"] })}
          />
        ) : null}
        <Conditions
          list={rule.if}
          fields={choices.fields}
          change={(list) => edit({ if: list })}
          wrong={(n) => wrong(`.if.${n}`)}
        />
        <Wrong words={wrong(".if")} />
        <Trial rule={rule} />
        {saved ? <RunLog ruleId={rule.id} /> : null}
      </div>
    </>
  );
}
