import { t } from "@lingui/core/macro";
import Autocomplete from "@mui/material/Autocomplete";
import InputBase from "@mui/material/InputBase";
import TextField from "@mui/material/TextField";

interface Props {
  label: string;
  value: string;
  change: (value: string) => void;
  /** What can be chosen; what is typed need not be one of it. */
  options: readonly string[];
  /** Something was chosen, Enter was pressed, or the field was left. */
  settle?: (value: string) => void;
  /** Without a frame of its own; the label is the placeholder. */
  bare?: boolean;
  placeholder?: string;
  wrong?: string | undefined;
  hint?: string;
  most?: number;
}

/** A line of text with suggestions of what it may be. */
export function Combo(props: Props) {
  const { label, value, change, options, settle, bare = false, placeholder, wrong, hint, most } = props;
  const html = { "aria-label": bare ? label : undefined, maxLength: most, dir: "auto" };
  return (
    <Autocomplete
      freeSolo
      size="small"
      clearIcon={null}
      clearText={t`Clear`}
      forcePopupIcon={false}
      options={options}
      value={null} // what is typed counts, chosen or not
      inputValue={value}
      onInputChange={(_, typed, reason) => {
        if (reason === "input") change(typed);
      }}
      onChange={(_, chosen) => {
        if (chosen !== null) (settle ?? change)(chosen);
      }}
      onBlur={() => settle?.(value)}
      renderInput={({ slotProps, ...params }) => {
        const { htmlInput, input } = slotProps;
        return bare ? (
          <InputBase
            {...params}
            ref={input.ref}
            placeholder={placeholder}
            inputProps={{ ...htmlInput, ...html }}
          />
        ) : (
          <TextField
            {...params}
            label={label}
            placeholder={placeholder}
            error={wrong !== undefined}
            helperText={wrong ?? hint}
            slotProps={{ ...slotProps, htmlInput: { ...htmlInput, ...html }, inputLabel: { shrink: true } }}
          />
        );
      }}
    />
  );
}
