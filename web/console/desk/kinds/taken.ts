import { t } from "@lingui/core/macro";

import { clock } from "../../../shared/format";
import { kind } from "../kind";

export default kind("Check", ({ event, mine, who, to, why, startedAt }) => {
  if (event.how === "took-over")
    return mine ? t`You took over the chat from ${to}` : t`${who} took over the chat from ${to}`;
  if (event.how === "assigned") {
    if (mine) return why ? t`Assigned to you (${why})` : t`Assigned to you`;
    return why ? t`Assigned to ${who} (${why})` : t`Assigned to ${who}`;
  }
  if (!startedAt) return mine ? t`You took this chat` : t`${who} took this chat`;
  // A wait that is over, to the nearest second as the measures count it; what still runs is cut.
  const after = clock(Date.parse(event.at) - Date.parse(startedAt) + 500);
  return mine ? t`You took this chat after ${after}` : t`${who} took this chat after ${after}`;
});
