import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Note", ({ event, mine, who }) => {
  const { number = 0, title = "" } = event.ticket ?? {};
  if (event.how === "linked")
    return mine ? t`You linked ticket ${number}: ${title}` : t`${who} linked ticket ${number}: ${title}`;
  if (event.side === "house") return t`Ticket ${number} made of this automatically: ${title}`;
  return mine
    ? t`You made ticket ${number} of this: ${title}`
    : t`${who} made ticket ${number} of this: ${title}`;
});
