import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Eye", ({ mine, who }) => (mine ? t`You stopped watching` : t`${who} stopped watching`));
