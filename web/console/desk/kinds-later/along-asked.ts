import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Eye", ({ mine, who }) =>
  mine ? t`You asked to look along` : t`${who} asked to look along`,
);
