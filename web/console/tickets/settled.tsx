import { useState } from "react";

import { TextField } from "../kit/text-field";

interface Props {
  label: string;
  value: string;
  most: number;
  /** Stores it; what was refused stays in the field. */
  set: (value: string) => Promise<boolean>;
}

/** A line that is stored when the field is left or Enter is pressed; Escape gives back what was there. */
export function Settled({ label, value, most, set }: Props) {
  const [typed, setTyped] = useState<string>();
  const settle = () => {
    if (typed === undefined) return;
    if (typed.trim() === value) return setTyped(undefined);
    void set(typed.trim()).then((well) => {
      if (well) setTyped((now) => (now === typed ? undefined : now));
    });
  };
  return (
    <TextField
      label={label}
      size="small"
      value={typed ?? value}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={settle}
      onKeyDown={(e) => {
        if (e.key === "Enter") settle();
        if (e.key === "Escape") setTyped(undefined);
      }}
      slotProps={{ htmlInput: { maxLength: most, dir: "auto" }, inputLabel: { shrink: true } }}
    />
  );
}
