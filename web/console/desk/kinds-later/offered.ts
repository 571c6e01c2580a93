import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Hourglass", ({ to, why }) => (why ? t`Offered to ${to} (${why})` : t`Offered to ${to}`));
