import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Sign", ({ event, to, why }) => {
  if (event.live) {
    if (!to) return why ? t`Became a live chat for the team (${why})` : t`Became a live chat for the team`;
    return why ? t`Became a live chat for ${to} (${why})` : t`Became a live chat for ${to}`;
  }
  if (!to) return why ? t`Sent to the team (${why})` : t`Sent to the team`;
  return why ? t`Sent to ${to} (${why})` : t`Sent to ${to}`;
});
