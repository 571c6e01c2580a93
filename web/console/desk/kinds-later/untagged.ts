import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Tag", ({ event, mine, who }) => {
  const tag = event.tag ?? "";
  return mine ? t`You removed the tag ${tag}` : t`${who} removed the tag ${tag}`;
});
