import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

interface Props {
  label: string;
  /** The label is read out and not shown: what stands around says it. */
  bare?: boolean;
  value: string;
  change: (value: string) => void;
  options: { value: string; label: string }[];
  wrong?: string | undefined;
  hint?: string;
}

/** One of several options. */
export function Select({ label, bare = false, value, change, options, wrong, hint }: Props) {
  return (
    <TextField
      select
      label={bare ? undefined : label}
      size="small"
      value={value}
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(e.target.value)}
      slotProps={{
        inputLabel: { shrink: true },
        select: { displayEmpty: true, SelectDisplayProps: bare ? { "aria-label": label } : {} },
      }}
    >
      {options.map((o) => (
        <MenuItem key={o.value} value={o.value}>
          {o.label}
        </MenuItem>
      ))}
    </TextField>
  );
}
