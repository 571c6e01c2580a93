import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Sign", ({ to, why }) => t`Also open to ${to} (${why})`);
