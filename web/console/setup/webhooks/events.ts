import { t } from "@lingui/core/macro";

import type { EventView } from "../../../shared/types";

/** The events of which other systems can be told, in the order in which a chat has them. */
export const eventWords: { kind: EventView["kind"]; words: string }[] = [
  { kind: "started", words: t`A chat starts` },
  { kind: "routed", words: t`It goes to a department` },
  { kind: "overflowed", words: t`It overflows to another` },
  { kind: "taken", words: t`Somebody takes it` },
  { kind: "said", words: t`Something is said` },
  { kind: "translated", words: t`Words are translated` },
  { kind: "corrected", words: t`Words are corrected` },
  { kind: "withdrawn", words: t`Words are withdrawn` },
  { kind: "shared", words: t`A file is shared` },
  { kind: "automatic", words: t`A rule says something` },
  { kind: "helper-began", words: t`The helper begins` },
  { kind: "helper-said", words: t`The helper says something` },
  { kind: "helper-left", words: t`The helper leaves` },
  { kind: "noted", words: t`The team notes something` },
  { kind: "named", words: t`The team fills in who it is` },
  { kind: "tagged", words: t`A tag is set` },
  { kind: "untagged", words: t`A tag is taken off` },
  { kind: "summarised", words: t`It is summed up` },
  { kind: "ticketed", words: t`A ticket is made of it` },
  { kind: "concluded", words: t`An outcome or a sale is set` },
  { kind: "handed-on", words: t`It is handed on` },
  { kind: "returned", words: t`It comes back` },
  { kind: "put-back", words: t`It is put back` },
  { kind: "joined", words: t`A colleague joins` },
  { kind: "left", words: t`A colleague leaves` },
  { kind: "called", words: t`The team is asked` },
  { kind: "kept", words: t`It becomes a message` },
  { kind: "ended", words: t`It ends` },
  { kind: "wrapped-up", words: t`The wrap-up ends` },
  { kind: "rated", words: t`The visitor rates it` },
];
