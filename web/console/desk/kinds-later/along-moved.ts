import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Eye", ({ event, mine, who }) => {
  switch (event.how) {
    case "accepted":
      return event.along?.scroll
        ? t`${who} lets the team see the page, and scroll it`
        : t`${who} lets the team see the page`;
    case "declined":
      return t`${who} declined to show the page`;
    case "withdrawn":
      return mine ? t`You no longer ask to look along` : t`${who} no longer asks to look along`;
    default:
      return mine ? t`You ended looking along` : t`${who} ended looking along`;
  }
});
