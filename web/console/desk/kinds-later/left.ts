import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Person", ({ event, mine, who, to }) => {
  if (event.name === event.to) return t`${to} left`;
  return mine ? t`You removed ${to}` : t`${who} removed ${to}`;
});
