import { t } from "@lingui/core/macro";

import { kind } from "../kind";
import { languageName } from "../language-name";

export default kind("Languages", ({ event, mine, who }) => {
  const { theirs = "", ours = "" } = event.translating ?? {};
  const between = `${languageName(theirs)} – ${languageName(ours)}`;
  return mine ? t`You began the translation ${between}` : t`${who} began the translation ${between}`;
});
