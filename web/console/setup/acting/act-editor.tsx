import { t } from "@lingui/core/macro";

import type { RuleAct } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { NumberField, TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { TextField } from "../../kit/text-field";
import { priorityWords } from "../../tickets/words";
import type { Choices } from "./rule-form";
import { actsFor } from "./words";

interface Props {
  act: RuleAct;
  number: number;
  /** What can be done on the rule's occasion. */
  possible: readonly RuleAct["kind"][];
  choices: Choices;
  edit: (part: Partial<RuleAct>) => void;
  remove: () => void;
  wrong: string | undefined;
}

/** One thing that a rule does, with what it needs. */
export function ActEditor({ act, number, possible, choices, edit, remove, wrong }: Props) {
  return (
    <li className={wrong ? "amiss" : ""}>
      <div className="row">
        <Select
          label={t`Step ${number}`}
          value={act.kind}
          options={actsFor(possible, act.kind)}
          change={(kind) => edit({ kind: kind as RuleAct["kind"] })}
        />
        <Detail act={act} edit={edit} choices={choices} />
        <Button aria-label={t`Remove step ${number}`} onClick={remove}>
          <Icons.Bin />
        </Button>
      </div>
      <Wrong words={wrong} />
    </li>
  );
}

function Detail({ act, edit, choices }: Pick<Props, "act" | "edit" | "choices">) {
  const department = (label: string, none?: string) => (
    <Select
      label={label}
      value={act.department ?? ""}
      options={[...(none ? [{ value: "", label: none }] : []), ...choices.departments]}
      change={(id) => edit({ department: id })}
    />
  );
  switch (act.kind) {
    case "say":
      return (
        <TextField
          className="words"
          label={t`What is said`}
          value={act.text ?? ""}
          multiline
          minRows={2}
          size="small"
          helperText={t`Shown as automatic, and never right after other automatic words`}
          onChange={(e) => edit({ text: e.target.value })}
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { maxLength: 500 } }}
        />
      );
    case "tag":
      return <TextInput label={t`Tag`} value={act.tag ?? ""} change={(tag) => edit({ tag })} most={100} />;
    case "priority":
      return (
        <NumberField
          label={t`Priority, 0 to 9`}
          value={act.priority ?? 0}
          change={(priority) => edit({ priority })}
          wrong={undefined}
        />
      );
    case "ask":
      return (
        <>
          {department(t`Whom`)}
          <TextInput
            label={t`For what`}
            value={act.text ?? ""}
            change={(text) => edit({ text })}
            most={500}
          />
        </>
      );
    case "hand-on":
      return department(t`To`);
    case "ticket":
      return (
        <>
          <TextInput
            label={t`Title`}
            value={act.text ?? ""}
            placeholder={t`suggested from the chat`}
            change={(text) => edit({ text })}
            most={200}
          />
          {department(t`Department`, t`that of the chat`)}
          <Select
            label={t`Priority`}
            value={act.urgency || "normal"}
            options={(["low", "normal", "high", "urgent"] as const).map((value) => ({
              value,
              label: priorityWords(value),
            }))}
            change={(urgency) => edit({ urgency: urgency as NonNullable<RuleAct["urgency"]> })}
          />
        </>
      );
    case "mail":
      return (
        <>
          <TextInput
            label={t`To`}
            value={act.to ?? ""}

            change={(to) => edit({ to })}
            most={200}
          />
          <TextInput
            label={t`Words above the link to the chat`}
            value={act.text ?? ""}
            change={(text) => edit({ text })}
            most={1000}
          />
        </>
      );
    case "webhook":
      return (
        <Select
          label={t`Which`}
          value={act.webhook ?? ""}
          options={choices.webhooks}
          change={(webhook) => edit({ webhook })}
          hint={choices.webhooks.length === 0 ? t`Add one under Setup, Webhooks` : undefined}
        />
      );
  }
}
