import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Tag", ({ event, mine, who }) => {
  const tag = event.tag ?? "";
  if (event.side === "house") return t`Tagged automatically: ${tag}`;
  return mine ? t`You added the tag ${tag}` : t`${who} added the tag ${tag}`;
});
