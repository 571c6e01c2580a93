import { t } from "@lingui/core/macro";

import { apart } from "../../../shared/apart";
import { kind } from "../kind";

export default kind("Page", ({ event, mine, who }) => {
  const page = apart(event.shownPage?.title ?? "");
  return mine ? t`You offered to show ${page}` : t`${who} offered to show ${page}`;
});
