import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Passing", ({ event, mine, who }) => {
  switch (event.way?.kind as string) {
    case "text":
      return mine ? t`You asked to continue by text message` : t`${who} asked to continue by text message`;
    case "email":
      return mine ? t`You asked to continue by email` : t`${who} asked to continue by email`;
    default:
      return mine ? t`You asked to continue on the site` : t`${who} asked to continue on the site`;
  }
});
