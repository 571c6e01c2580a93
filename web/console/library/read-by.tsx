import { t } from "@lingui/core/macro";

/** How many visitors read an article lately, and what they said of it. */
export function ReadBy({ read }: { read: { opened: number; helped: number; unhelped: number } }) {
  const said = read.helped + read.unhelped;
  const words = read.opened === 0 ? t`not read yet` : t`read by ${read.opened}`;
  return <>{` · ${words}${said > 0 ? ` · ${t`helped ${read.helped} of ${said}`}` : ""}`}</>;
}
