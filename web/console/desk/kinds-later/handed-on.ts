import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind(
  "Passing",
  ({ event, mine, who, to }) => {
    if (event.side === "house") return t`Offered to ${to} automatically`;
    return mine ? t`You offered it to ${to}` : t`${who} offered it to ${to}`;
  },
  true,
);
