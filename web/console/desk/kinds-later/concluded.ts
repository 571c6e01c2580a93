import { t } from "@lingui/core/macro";

import { money } from "../../../shared/money";
import { kind } from "../kind";

export default kind("Check", ({ event }) => {
  const outcome = event.outcome || t`none`;
  if (!event.sale) return t`Outcome: ${outcome}`;
  const sale = money(event.sale);
  return t`Outcome: ${outcome}, ${sale}`;
});
