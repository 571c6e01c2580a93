import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Passing", ({ event, visitor }) => {
  const name = visitor || t`The visitor`;
  switch (event.how) {
    case "declined":
      return t`${name} stays here`;
    case "stopped":
      return t`${name} sent STOP: no more text messages`;
    case "started":
      return t`${name} sent START: text messages again`;
    default:
      return event.way?.kind === "text"
        ? t`${name} continues by text message`
        : t`${name} continues by email`;
  }
});
