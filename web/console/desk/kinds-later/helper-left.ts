import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Person", ({ event, mine, who, visitor }) => {
  switch (event.how) {
    case "asked":
      return t`${visitor} asked for a person`;
    case "paused":
      return mine ? t`You stopped the helper` : t`${who} stopped the helper`;
    case "failed":
      return t`The helper could not go on and left the chat to the team`;
    default:
      return t`The helper handed the chat over`;
  }
});
