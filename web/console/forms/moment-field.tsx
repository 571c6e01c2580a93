import { TextField } from "../kit/text-field";

interface Props {
  label: string;
  /** What the clock on the team's wall shows, as wallIn says it. */
  value: string;
  change: (wall: string) => void;
  wrong?: string | undefined;
  /** The label is read out and not shown. */
  bare?: boolean;
}

/** A day and a time of the team's. */
export function MomentField({ label, value, change, wrong, bare = false }: Props) {
  return (
    <TextField
      label={bare ? undefined : label}
      size="small"
      type="datetime-local"
      autoFocus={bare}
      value={value}
      error={wrong !== undefined}
      helperText={wrong}
      onChange={(e) => change(e.target.value)}
      slotProps={{ htmlInput: { "aria-label": bare ? label : undefined }, inputLabel: { shrink: true } }}
    />
  );
}
