import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Note", ({ event, mine, who }) => {
  if (event.text) return t`Summary: ${event.text}`;
  return mine ? t`You removed the summary` : t`${who} removed the summary`;
});
