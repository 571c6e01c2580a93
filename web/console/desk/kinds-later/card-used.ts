import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Page", ({ event, visitor }) => {
  const title = event.text ?? "";
  const who = visitor || t`The visitor`;
  return event.used === "basket" ? t`${who} put “${title}” in the basket` : t`${who} opened “${title}”`;
});
