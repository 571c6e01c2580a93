import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Ring", ({ mine, who }) =>
  mine ? t`You no longer ask for help` : t`${who} no longer asks for help`,
);
