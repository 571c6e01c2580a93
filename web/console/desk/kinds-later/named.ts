import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Pencil", ({ mine, who }) =>
  mine ? t`You updated the contact` : t`${who} updated the contact`,
);
