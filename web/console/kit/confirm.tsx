import type { ReactNode } from "react";

import { Button } from "./button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "./dialog";

interface Props {
  title: ReactNode;
  children: ReactNode;
  /** What the buttons do, each in its own words. */
  yes: string;
  no: string;
  /** What yes does cannot be undone: the key at hand does not do it. */
  grave?: boolean;
  onYes: () => void;
  onNo: () => void;
}

/** Asks before something is done that others would feel. */
export function Confirm({ title, children, yes, no, grave = false, onYes, onNo }: Props) {
  return (
    <Dialog open onClose={onNo} aria-labelledby="confirm-title">
      <DialogTitle id="confirm-title">{title}</DialogTitle>
      <DialogContent>{children}</DialogContent>
      <DialogActions>
        <Button autoFocus={grave} onClick={onNo}>
          {no}
        </Button>
        <Button variant="contained" color={grave ? "error" : "primary"} autoFocus={!grave} onClick={onYes}>
          {yes}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
