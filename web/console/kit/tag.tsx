import "./tag.css";

import type { ReactNode } from "react";

import { Icons } from "../icons";

interface Props {
  children: ReactNode;
  /** Names the button that takes it away; without one there is none. */
  removal?: string;
  onRemove?: () => void;
}

/** A word that is put on something, and can be taken off. */
export function Tag({ children, removal, onRemove }: Props) {
  return (
    <span className="tag">
      <bdi>{children}</bdi>
      {onRemove ? (
        <button type="button" aria-label={removal} onClick={onRemove}>
          <Icons.Close />
        </button>
      ) : null}
    </span>
  );
}
