import { t } from "@lingui/core/macro";

import type { Kind } from "../kind";

export default { look: "aside", icon: "Note", words: () => t`Note to team` } satisfies Kind;
