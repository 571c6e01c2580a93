import Tooltip from "@mui/material/Tooltip";

import { keepHint, leaveHint, type ShownHint } from "./hint";

/** Draws a hint beside its control. */
export default function HintShown({ hint }: { hint: ShownHint }) {
  return (
    <Tooltip
      open
      title={hint.words}
      onClose={() => leaveHint()}
      slotProps={{
        popper: { anchorEl: hint.at, onPointerEnter: keepHint, onPointerLeave: () => leaveHint(true) },
      }}
    >
      <span hidden />
    </Tooltip>
  );
}
