import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type ReactNode } from "react";

import { Icons } from "../icons";
import { Button } from "../kit/button";

interface Props {
  /** What is asked once more before it happens. */
  question: ReactNode;
  remove: () => void;
  /** What the button says, if not that it deletes. */
  words?: string;
}

/** Deletes what an editor shows; asks in its own place first, and only then does it. */
export function Removal({ question, remove, words = t`Delete` }: Props) {
  const [asking, setAsking] = useState(false);
  if (!asking) {
    return (
      <Button onClick={() => setAsking(true)} startIcon={<Icons.Bin />}>
        {words}
      </Button>
    );
  }
  return (
    <span className="asking">
      {question}
      <Button variant="outlined" color="error" onClick={remove} autoFocus>
        {words}
      </Button>
      <Button onClick={() => setAsking(false)}>
        <Trans>Keep it</Trans>
      </Button>
    </span>
  );
}
