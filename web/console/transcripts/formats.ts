import { t } from "@lingui/core/macro";

import type { Export } from "../../shared/types";

/** How transcripts can be written. */
export function formats(): { value: Export["format"]; words: string }[] {
  return [
    { value: "text", words: t`Text` },
    { value: "html", words: t`Web page (HTML)` },
    { value: "csv", words: t`Table (CSV), a line for each message` },
    { value: "jsonl", words: t`JSON Lines, a line for each chat` },
    { value: "json", words: t`JSON` },
    { value: "eml", words: t`Email (EML)` },
  ];
}
