import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Letter", ({ event }) =>
  event.side === "house"
    ? t`Became a message: the team is closed`
    : t`The visitor left a message instead of waiting`,
);
