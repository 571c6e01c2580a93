import "./library.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { CannedView } from "../../shared/types";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { Wrong } from "../kit/states";
import { CannedFields, freshCanned, saveCanned } from "./canned-form";

interface Props {
  text: string;
  departmentId: string;
  onClose: () => void;
}

/** Makes a canned response of a message that was sent. */
export default function KeepAsCanned({ text, departmentId, onClose }: Props) {
  const saving = useSaving();
  // Braces of the message are text, not placeholders.
  const [c, setC] = useState<CannedView>({ ...freshCanned, departmentId, text: text.replaceAll("{", "{{") });
  const save = () =>
    void saving
      .run(() => saveCanned(c), t`;${c.shortcut} saved`)
      .then((worked) => {
        if (worked) onClose();
      });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="keep-title">
      <DialogTitle id="keep-title">
        <Trans>Save as canned response</Trans>
      </DialogTitle>
      <DialogContent className="keep">
        <CannedFields
          canned={c}
          saving={saving}
          change={(part) => {
            setC((before) => ({ ...before, ...part }));
            saving.clear();
          }}
        />
        <Wrong words={saving.trouble} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Cancel</Trans>
        </Button>
        <Button variant="contained" disabled={saving.busy} onClick={save}>
          <Trans>Keep</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
