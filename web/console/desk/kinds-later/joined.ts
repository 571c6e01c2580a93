import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Person", ({ event, mine, who, to }) => {
  if (event.how === "stepped-in") return mine ? t`You stepped in` : t`${who} stepped in`;
  if (event.how === "answering") return mine ? t`You came to help` : t`${who} came to help`;
  return mine ? t`You added ${to}` : t`${who} added ${to}`;
});
