import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Page", ({ event, mine, who }) => {
  switch (event.how) {
    case "accepted":
      return t`${who} wants to see the page`;
    case "declined":
      return t`${who} declined to see the page`;
    case "reached":
      return t`${who} is on the page`;
    case "left":
      return t`${who} left the page`;
    case "back":
      return t`${who} went back`;
    case "withdrawn":
      return mine ? t`You took the offer back` : t`${who} took the offer back`;
    default:
      return mine ? t`You ended showing the page` : t`${who} ended showing the page`;
  }
});
