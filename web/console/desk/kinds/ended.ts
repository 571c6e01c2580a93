import { t } from "@lingui/core/macro";

import { firstName } from "../../../shared/format";
import { kind } from "../kind";

export default kind("Door", ({ event, mine, who }) => {
  if (event.side === "visitor") {
    const name = firstName(event.name);
    return t`${name} ended the chat`;
  }
  if (event.ending === "helped") return t`Ended: the helper had answered`;
  if (event.why === "silent") return t`Ended automatically: the visitor wrote nothing more`;
  if (event.why === "banned") return mine ? t`You banned the visitor` : t`${who} banned the visitor`;
  if (event.side === "house") return t`The visitor left and did not return: missed`;
  return mine ? t`You ended the chat` : t`${who} ended the chat`;
});
