import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Hourglass", ({ event, to }) =>
  event.why === "unanswered" ? t`${to} did not answer the offer` : t`${to} passed`,
);
