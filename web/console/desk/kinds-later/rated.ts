import { t } from "@lingui/core/macro";

import { ratingWords } from "../../words/codes";
import { kind } from "../kind";

export default kind("Gauge", ({ event, visitor }) => {
  const who = visitor || t`The visitor`;
  const rating = ratingWords(event.rating ?? 0);
  const words = event.text ?? "";
  return words ? t`${who} rated this chat: ${rating}, “${words}”` : t`${who} rated this chat: ${rating}`;
});
