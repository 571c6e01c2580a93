import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Languages", ({ mine, who }) =>
  mine ? t`You ended the translation` : t`${who} ended the translation`,
);
