import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Warning", ({ event }) => {
  const why = (event.text ?? "").replace(/\.(?=\W*$)/, ""); // it stands within a sentence
  return why ? t`A message was not delivered: ${why}` : t`A message was not delivered`;
});
