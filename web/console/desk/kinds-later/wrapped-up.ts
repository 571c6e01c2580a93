import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Check", () => t`Wrap-up done`);
