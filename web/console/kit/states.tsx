import { Trans } from "@lingui/react/macro";
import Button from "@mui/material/Button";

import { wordsFor } from "../../shared/problem";

/** Says that something could not be loaded, and lets one try again. */
export function LoadTrouble({ error, again }: { error: unknown; again: () => void }) {
  return (
    <div className="trouble" role="alert">
      <p>{wordsFor(error)}</p>
      <Button variant="outlined" onClick={again}>
        <Trans>Try again</Trans>
      </Button>
    </div>
  );
}

/** What is wrong, beside the button that was pressed. */
export function Wrong({ words }: { words: string | undefined }) {
  return words ? (
    <p className="wrong" role="alert">
      {words}
    </p>
  ) : null;
}
