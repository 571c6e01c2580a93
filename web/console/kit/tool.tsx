import IconButton from "@mui/material/IconButton";
import type { ReactNode, Ref } from "react";

import { Hint } from "./hint";

interface Props {
  name: string;
  act?: string;
  disabled?: boolean;
  pressed?: boolean | undefined;
  onClick: (at: HTMLElement) => void;
  children: ReactNode;
  ref?: Ref<HTMLButtonElement>;
}

/** A small button that shows an icon only; its name and its key are told by a hint. */
export function Tool({ name, act = "", disabled = false, pressed, onClick, children, ref }: Props) {
  const button = (
    <IconButton
      ref={ref}
      aria-label={name}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={(e) => onClick(e.currentTarget)}
      size="small"
    >
      {children}
    </IconButton>
  );
  // What is disabled gives no hint: it cannot be pointed at.
  return disabled ? (
    button
  ) : (
    <Hint words={name} act={act}>
      {button}
    </Hint>
  );
}
