import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextInput } from "../kit/field";

/** Asks which tag several tickets get. */
export function AskTag({ put, close }: { put: (tag: string) => void; close: () => void }) {
  const [tag, setTag] = useState("");
  return (
    <Dialog open onClose={close} aria-labelledby="tag-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (tag.trim()) put(tag.trim());
        }}
      >
        <DialogTitle id="tag-title">
          <Trans>Add a tag</Trans>
        </DialogTitle>
        <DialogContent className="ticket-form">
          <TextInput label={t`Tag`} value={tag} change={setTag} most={40} />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>
            <Trans>Not now</Trans>
          </Button>
          <Button type="submit" variant="contained" disabled={!tag.trim()}>
            <Trans>Add</Trans>
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
