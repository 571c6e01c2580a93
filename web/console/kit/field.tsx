import TextField from "@mui/material/TextField";

interface TextProps {
  label: string;
  value: string;
  change: (value: string) => void;
  wrong?: string | undefined;
  hint?: string | undefined;
  placeholder?: string;
  /** How many characters it takes. */
  most?: number;
  /** The id of a datalist with what can be chosen. */
  list?: string;
  /** What it is, for browsers with a field of its own for that. */
  type?: "text" | "date";
}

/** One line of text with a label; what is wrong stands in place of the hint. */
export function TextInput({ label, value, change, wrong, hint, placeholder, most, list, type }: TextProps) {
  return (
    <TextField
      label={label}
      size="small"
      type={type ?? "text"}
      value={value}
      placeholder={placeholder}
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(e.target.value)}
      slotProps={{ htmlInput: { maxLength: most, list }, inputLabel: { shrink: true } }}
    />
  );
}

interface NumberProps {
  label: string;
  value: number;
  change: (value: number) => void;
  wrong: string | undefined;
  hint?: string;
  unit?: string;
  /** What no number means here, in words that stand in the empty field. */
  none?: string;
}

/** A whole number with a label; what is not a number counts as none. */
export function NumberField({ label, value, change, wrong, hint, unit, none = "0" }: NumberProps) {
  return (
    <TextField
      label={unit ? `${label} (${unit})` : label}
      size="small"
      value={value === 0 ? "" : String(value)}
      placeholder={none}
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(Number.parseInt(e.target.value.replace(/\D/g, ""), 10) || 0)}
      slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 6 }, inputLabel: { shrink: true } }}
    />
  );
}
