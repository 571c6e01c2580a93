import { t } from "@lingui/core/macro";

import type { Kind } from "../kind";

export default {
  look: "line",
  icon: "Note",
  // Where a flow stands is nothing to read; what the visitor told it is.
  shows: (event) => (event.helper?.learned ?? []).length > 0,
  words: ({ event }) => {
    const told = (event.helper?.learned ?? []).map((a) => `${a.label}: ${a.value}`).join(", ");
    return t`Noted by the helper: ${told}`;
  },
} satisfies Kind;
