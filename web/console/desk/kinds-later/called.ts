import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind(
  "Ring",
  ({ mine, who, to }) => (mine ? t`You asked ${to} for help` : t`${who} asked ${to} for help`),
  true,
);
