import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { ReactNode } from "react";

import { wordsFor } from "../../shared/problem";

interface NumberProps {
  label: string;
  value: number;
  change: (value: number) => void;
  wrong: string | undefined;
  hint?: string;
  unit?: string;
}

/** A whole number with a label; what is not a number counts as none. */
export function NumberField({ label, value, change, wrong, hint, unit }: NumberProps) {
  return (
    <TextField
      label={unit ? `${label} (${unit})` : label}
      size="small"
      value={value === 0 ? "" : String(value)}
      placeholder="0"
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(Number.parseInt(e.target.value.replace(/\D/g, ""), 10) || 0)}
      slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 6 }, inputLabel: { shrink: true } }}
    />
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  change: (value: string) => void;
  options: { value: string; label: string }[];
  wrong?: string | undefined;
  hint?: string;
}

/** One of several options. */
export function Choice({ label, value, change, options, wrong, hint }: ChoiceProps) {
  return (
    <TextField
      select
      label={label}
      size="small"
      value={value}
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(e.target.value)}
      slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
    >
      {options.map((o) => (
        <MenuItem key={o.value} value={o.value}>
          {o.label}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** A box to tick with its words. */
export function Tick({
  checked,
  change,
  children,
}: {
  checked: boolean;
  change: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="tick">
      <input type="checkbox" checked={checked} onChange={(e) => change(e.target.checked)} />
      <span>{children}</span>
    </label>
  );
}

/** Says that something could not be loaded, and lets one try again. */
export function LoadTrouble({ error, again }: { error: unknown; again: () => void }) {
  return (
    <div className="trouble" role="alert">
      <p>{wordsFor(error)}</p>
      <Button variant="outlined" onClick={again}>
        Try again
      </Button>
    </div>
  );
}

/** What is wrong, beside the button that was pressed. */
export function Wrong({ words }: { words: string | undefined }) {
  return words ? (
    <p className="wrong" role="alert">
      {words}
    </p>
  ) : null;
}
