import { i18n } from "@lingui/core";
import { TransNoContext } from "@lingui/react/server";
import type { ComponentProps } from "react";

type Props = Omit<ComponentProps<typeof TransNoContext>, "lingui">;

/** A sentence with elements in it, in the language that is spoken. */
export function Trans({ values, ...props }: Props) {
  return (
    <TransNoContext
      {...(props as ComponentProps<typeof TransNoContext>)}
      values={values && asWritten(values)}
      lingui={{ i18n }}
    />
  );
}

// What people wrote is put into the sentence as a node of its own: as part of its
// text, their angle brackets would be taken for ours.
function asWritten(values: Record<string, unknown>): Record<string, unknown> {
  const nodes = Object.entries(values).map(([name, value]) => [
    name,
    typeof value === "string" && value.includes("<") ? <>{value}</> : value,
  ]);
  return Object.fromEntries(nodes);
}
