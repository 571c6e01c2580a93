import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Bell", ({ event: { text = "" }, to }) =>
  to ? t`${to}’s welcome, said automatically: “${text}”` : t`Said automatically to the visitor: “${text}”`,
);
