import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind(
  "Back",
  ({ event, mine, who, to }) => {
    if (event.why === "owner-gone") return t`${to} lost the connection and did not return. Back in the queue`;
    return mine ? t`You put it back into the queue` : t`${who} put it back into the queue`;
  },
  true,
);
