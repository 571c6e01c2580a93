import { t } from "@lingui/core/macro";

import type { ChatView } from "../../shared/types";

/** Returns what a chat's visitor is called: by their name, or else by the number or address from which they write. */
export const nameOf = ({ name, way }: Pick<ChatView, "name" | "way">): string =>
  name || way?.address || t`Visitor`;
