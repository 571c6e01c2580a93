import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { ReactNode } from "react";

import { wordsFor } from "../../shared/problem";
import { Icons } from "../icons";
import type { Editing } from "./editing";
import type { Saving } from "./saving";

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
}

/** One line of text with a label; what is wrong stands in place of the hint. */
export function TextInput({ label, value, change, wrong, hint, placeholder, most, list }: TextProps) {
  return (
    <TextField
      label={label}
      size="small"
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

/** Marks what is being edited and was not saved. */
export function NotSaved() {
  return (
    <span className="not-saved">
      <Icons.Pencil /> not saved
    </span>
  );
}

interface PickerProps {
  title: string;
  /** What stands in the list: its id, its name, and a line about it. */
  items: { id: string; name: string; about: ReactNode; unsaved?: boolean }[];
  shown: string | undefined;
  pick: (id: string) => void;
  /** Whether something new can be made here. */
  add?: boolean;
  /** Something new was begun and not saved. */
  newUnsaved?: boolean;
}

/** The list beside an editor; "new" is picked for what is not there yet. */
export function Picker({ title, items, shown, pick, add = true, newUnsaved = false }: PickerProps) {
  return (
    <section className="picker" aria-label={title}>
      <header>
        <h2>{title}</h2>
        {add ? (
          <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => pick("new")}>
            {newUnsaved ? "New, not saved" : "New"}
          </Button>
        ) : null}
      </header>
      <ul>
        {items.map((item) => (
          <li key={item.id}>
            <button aria-current={shown === item.id} onClick={() => pick(item.id)}>
              <b>
                {item.name} {item.unsaved ? <NotSaved /> : null}
              </b>
              {item.about}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Where somebody stands in a department: primary, backup, or not at all. */
export type Place = "primary" | "backup" | "";

interface PlacesProps {
  rows: { id: string; name: string; place: Place }[];
  change: (id: string, place: Place) => void;
}

/** A table in which each row is primary, backup or not a member. */
export function Places({ rows, change }: PlacesProps) {
  const places: Place[] = ["primary", "backup", ""];
  return (
    <table>
      <tbody>
        {rows.map((row) => (
          <tr key={row.id}>
            <th scope="row">{row.name}</th>
            {places.map((place) => (
              <td key={place}>
                <label>
                  <input
                    type="radio"
                    name={`place-${row.id}`}
                    checked={row.place === place}
                    onChange={() => change(row.id, place)}
                  />
                  {place || "no"}
                </label>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface SaveProps<T> {
  saving: Saving;
  editing: Editing<T>;
  save: () => void;
  /** Says in words what a colleague stored meanwhile, to be seen beside what was typed. */
  theirWords?: (theirs: T) => string;
}

/** The foot of an editor: what went wrong as a whole, what a colleague did meanwhile, undo and save. */
export function SaveBar<T>({ saving, editing, save, theirWords }: SaveProps<T>) {
  const { theirs, changed } = editing;
  if (theirs) {
    return (
      <footer className="conflict" role="alert">
        <p>
          <Icons.Warning /> A colleague saved this in the meantime. What you typed is still here, but not
          saved.
        </p>
        {theirWords ? (
          <p className="theirs" dir="auto">
            <b>Theirs:</b> {theirWords(theirs)}
          </p>
        ) : null}
        <Button
          onClick={() => {
            saving.clear();
            editing.undo();
          }}
        >
          Use theirs
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            saving.clear();
            editing.keepMine();
          }}
        >
          Keep mine
        </Button>
      </footer>
    );
  }
  return (
    <footer>
      <Wrong words={saving.trouble} />
      <Button
        disabled={!changed || saving.busy}
        onClick={() => {
          saving.clear();
          editing.undo();
        }}
      >
        Undo changes
      </Button>
      <Button variant="contained" disabled={!changed || saving.busy} onClick={save}>
        Save
      </Button>
    </footer>
  );
}
