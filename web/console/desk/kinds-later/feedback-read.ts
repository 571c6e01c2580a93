import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Check", ({ who }) => t`${who} has read the rating`, true);
