import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";

import type { DeskSettings } from "../../shared/types";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { Select } from "../kit/select";
import { Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";

type Field = DeskSettings["contactFields"][number];

interface OwnFieldsProps {
  fields: Field[];
  change: (fields: Field[]) => void;
  wrong: string | undefined;
}

/** Fields of the team's own, with what each holds; one that is renamed keeps what was noted in it. */
export function OwnFields({ fields, change, wrong }: OwnFieldsProps) {
  return (
    <Words
      list={fields.map((f) => f.label)}
      name={t`field`}
      change={(labels) =>
        change(
          labels.map((label, i) => {
            const same = labels.length === fields.length ? fields[i] : undefined;
            const before = same ?? fields.find((f) => f.label === label);
            return { name: before?.name ?? "", label, kind: before?.kind ?? "text" };
          }),
        )
      }
      wrong={wrong}
      beside={(at) => (
        <Select
          bare
          label={t`Kind of field ${at + 1}`}
          value={fields[at]?.kind ?? "text"}
          change={(kind) =>
            change(fields.map((f, i) => (i === at ? { ...f, kind: kind as Field["kind"] } : f)))
          }
          options={[
            { value: "text", label: t`text` },
            { value: "number", label: t`number` },
            { value: "date", label: t`date` },
          ]}
        />
      )}
    />
  );
}

interface WordsProps {
  list: string[];
  name: string;
  change: (list: string[]) => void;
  wrong: string | undefined;
  /** What stands beside a word. */
  beside?: (at: number) => ReactNode;
}

/** A list of words that can be changed, added to and shortened. */
export function Words({ list, name, change, wrong, beside }: WordsProps) {
  return (
    <div className="words-list">
      {list.map((word, i) => (
        <div key={i} className="row">
          <TextField
            size="small"
            value={word}
            onChange={(e) => change(list.map((w, at) => (at === i ? e.target.value : w)))}
            slotProps={{ htmlInput: { "aria-label": `${name} ${i + 1}`, maxLength: 60 } }}
          />
          {beside?.(i)}
          <IconButton
            aria-label={t`Remove ${word || name}`}
            onClick={() => change(list.filter((_, at) => at !== i))}
          >
            <Icons.Close />
          </IconButton>
        </div>
      ))}
      <Button startIcon={<Icons.Plus />} onClick={() => change([...list, ""])}>
        <Trans>Add</Trans> {name === "outcome" ? t`an outcome` : t`a field`}
      </Button>
      <Wrong words={wrong} />
    </div>
  );
}
