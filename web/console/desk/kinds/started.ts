import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Door", ({ event, visitor }) => {
  const page = event.page ?? "";
  if (!visitor) return page ? t`A visitor started a chat on ${page}` : t`A visitor started a chat`;
  return page ? t`${visitor} started a chat on ${page}` : t`${visitor} started a chat`;
});
