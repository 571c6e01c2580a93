import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Live", ({ event, mine, who }) => {
  if (event.side === "team")
    return mine ? t`You gave the chat to the helper` : t`${who} gave the chat to the helper`;
  const flow = event.helper?.name ?? "";
  return event.helper?.beside
    ? t`The helper speaks while the visitor waits (${flow})`
    : t`The helper answers first (${flow})`;
});
