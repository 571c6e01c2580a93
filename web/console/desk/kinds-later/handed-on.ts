import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind(
  "Passing",
  ({ mine, who, to }) => (mine ? t`You offered it to ${to}` : t`${who} offered it to ${to}`),
  true,
);
