import { t } from "@lingui/core/macro";

import { kind } from "../kind";
import onSite from "../kinds/started";

/** In the place of the first screen's: it knows those who write from elsewhere, too. */
export default kind("Door", (told) => {
  const { event, visitor } = told;
  const name = visitor || t`Somebody`;
  if (event.way?.kind === "text") return t`${name} wrote by text message`;
  if (!event.way) return onSite.words?.(told) ?? "";
  const { subject } = event;
  return subject ? t`${name} wrote by email: “${subject}”` : t`${name} wrote by email`;
});
