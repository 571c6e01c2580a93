import Popover from "@mui/material/Popover";
import type { ReactNode } from "react";

interface Props {
  /** What it belongs to. */
  at: HTMLElement;
  onClose: () => void;
  children: ReactNode;
}

/** Something that lies above a control until it is used or left. */
export function Above({ at, onClose, children }: Props) {
  return (
    <Popover
      open
      anchorEl={at}
      onClose={onClose}
      anchorOrigin={{ vertical: "top", horizontal: "left" }}
      transformOrigin={{ vertical: "bottom", horizontal: "left" }}
    >
      {children}
    </Popover>
  );
}
