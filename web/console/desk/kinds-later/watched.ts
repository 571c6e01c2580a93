import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Eye", ({ mine, who }) => (mine ? t`You started watching` : t`${who} started watching`));
