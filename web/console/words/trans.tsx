import { i18n } from "@lingui/core";
import { TransNoContext } from "@lingui/react/server";
import type { ComponentProps } from "react";

type Props = Omit<ComponentProps<typeof TransNoContext>, "lingui">;

/** A sentence with elements in it, in the language that is spoken. */
export function Trans(props: Props) {
  return <TransNoContext {...(props as ComponentProps<typeof TransNoContext>)} lingui={{ i18n }} />;
}
