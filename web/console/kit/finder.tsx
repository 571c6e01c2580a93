import useAutocomplete from "@mui/material/useAutocomplete";
import { useEffect, type ReactNode } from "react";

interface Props<Entry> {
  label: string;
  placeholder: string;
  icon: ReactNode;
  typed: string;
  type: (words: string) => void;
  /** What was found, best first; the finder itself leaves nothing out. */
  entries: Entry[];
  keyOf: (entry: Entry) => string;
  wordsOf: (entry: Entry) => string;
  draw: (entry: Entry, before: Entry | undefined) => ReactNode;
  choose: (entry: Entry) => void;
  /** Esc was pressed. */
  leave: () => void;
}

/** A field with a list of what it finds; arrows go through it, Enter chooses. */
export function Finder<Entry>(props: Props<Entry>) {
  const { label, placeholder, icon, typed, type, entries, keyOf, wordsOf, draw, choose, leave } = props;
  const { getRootProps, getInputProps, getListboxProps, getOptionProps, groupedOptions } = useAutocomplete({
    options: entries,
    open: true,
    autoHighlight: true,
    value: null,
    inputValue: typed,
    filterOptions: (all) => all,
    getOptionLabel: wordsOf,
    getOptionKey: keyOf,
    isOptionEqualToValue: (a, b) => keyOf(a) === keyOf(b),
    onInputChange: (_, words, reason) => {
      if (reason === "input") type(words);
    },
    onClose: (_, reason) => {
      if (reason === "escape") leave();
    },
    onChange: (_, entry) => {
      if (entry) choose(entry);
    },
  });
  const found = groupedOptions as Entry[];
  const input = getInputProps();
  const { id } = input;
  useEffect(() => {
    // Whatever was on its way to the focus when this opened may take it only now;
    // what is typed must still go into the field.
    const field = document.getElementById(id ?? "");
    const hold = ({ target }: FocusEvent) => {
      if (target !== field) field?.focus();
    };
    document.addEventListener("focusin", hold);
    return () => document.removeEventListener("focusin", hold);
  }, [id]);
  return (
    <>
      <div className="palette-field" {...getRootProps()}>
        {icon}
        <input {...input} autoFocus placeholder={placeholder} aria-label={label} maxLength={200} />
      </div>
      <ul {...getListboxProps()} aria-label={label}>
        {found.map((entry, index) => (
          <li {...getOptionProps({ option: entry, index })} key={keyOf(entry)}>
            {draw(entry, found[index - 1])}
          </li>
        ))}
      </ul>
    </>
  );
}
