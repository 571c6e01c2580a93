import { t } from "@lingui/core/macro";

import type { Kind } from "../kind";

export default {
  look: "aside",
  icon: "Ear",
  words: () => t`Whisper; the visitor does not see it`,
} satisfies Kind;
