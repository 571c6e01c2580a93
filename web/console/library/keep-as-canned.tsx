import "./library.css";

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
      .run(() => saveCanned(c), `;${c.shortcut} saved`)
      .then((worked) => {
        if (worked) onClose();
      });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="keep-title">
      <DialogTitle id="keep-title">Save as canned response</DialogTitle>
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
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={saving.busy} onClick={save}>
          Keep
        </Button>
      </DialogActions>
    </Dialog>
  );
}
