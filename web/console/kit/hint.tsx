import Tooltip from "@mui/material/Tooltip";
import type { ReactElement } from "react";

import { hintOf } from "../keyboard/acts";

interface Props {
  /** What it does. */
  words: string;
  /** The act whose key is told with it. */
  act?: string;
  children: ReactElement<Record<string, unknown>>;
}

/** Says what a control does and by which key, to the pointer and to the keyboard alike. */
export function Hint({ words, act = "", children }: Props) {
  const key = hintOf(act);
  return (
    <Tooltip title={key ? `${words} (${key})` : words} describeChild>
      {children}
    </Tooltip>
  );
}
