import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind(
  "Ring",
  ({ event, mine, who, to }) => {
    if (event.side === "house") return t`${to} asked for help automatically`;
    return mine ? t`You asked ${to} for help` : t`${who} asked ${to} for help`;
  },
  true,
);
