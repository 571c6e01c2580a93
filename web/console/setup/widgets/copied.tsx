import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { say } from "../../kit/say";

/** Text to copy, and a button that does it. */
export function Copied({ text, label }: { text: string; label: string }) {
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => say(t`Copied`, "success"),
      () => say(t`Select the text and copy it yourself; the browser does not allow it.`, "error"),
    );
  return (
    <div className="copied">
      <code tabIndex={0}>{text}</code>
      <Button variant="outlined" startIcon={<Icons.Copy />} onClick={() => void copy()} aria-label={label}>
        <Trans>Copy</Trans>
      </Button>
    </div>
  );
}
