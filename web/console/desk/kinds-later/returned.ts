import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Back", ({ event, mine, who, to }) => {
  switch (event.why) {
    case "declined":
      return mine ? t`You could not take it. Back with ${to}` : t`${who} could not take it. Back with ${to}`;
    case "taken-back":
      return mine ? t`You took it back` : t`${who} took it back`;
    default:
      return t`Nobody took it. Back with ${to}`;
  }
});
