import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Hourglass", () => t`The visitor was told the chat is about to end`);
