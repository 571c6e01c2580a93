import { t } from "@lingui/core/macro";

import type { Choice } from "../../shared/types";
import { Select } from "../kit/select";

interface Props {
  label: string;
  /** What stands for all of them. */
  all: string;
  value: string;
  choices: Choice[];
  change: (value: string) => void;
}

/** One of what there is, or all of it; what is not in use any more stands last and says so. */
export function Pick({ label, all, value, choices, change }: Props) {
  // One that is not known, as in an old address, is shown rather than hidden.
  const known = value === "" || choices.some((c) => c.id === value);
  return (
    <Select
      label={label}
      value={value}
      change={change}
      options={[
        { value: "", label: all },
        ...choices.map((c) => ({ value: c.id, label: c.gone ? t`${c.name} (gone)` : c.name })),
        ...(known ? [] : [{ value, label: t`something that is not there any more` }]),
      ]}
    />
  );
}

/** Returns texts as choices by themselves. */
export function asChoices(texts: readonly string[]): Choice[] {
  return texts.map((text) => ({ id: text, name: text }));
}
