import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";
import { Link } from "react-router";

import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Wrong } from "../kit/states";
import type { Editing } from "./editing";
import type { Saving } from "./saving";

/** Marks what is being edited and was not saved. */
export function NotSaved() {
  return (
    <span className="not-saved">
      <Icons.Pencil /> <Trans>not saved</Trans>
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
            {newUnsaved ? t`New, not saved` : t`New`}
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
                  {{ primary: t`primary`, backup: t`backup`, "": t`no` }[place]}
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
  /** What is changed can be tried on past chats before it is saved. */
  tryOut?: boolean;
}

/** The foot of an editor: what went wrong as a whole, what a colleague did meanwhile, undo and save. */
export function SaveBar<T>({ saving, editing, save, theirWords, tryOut = false }: SaveProps<T>) {
  const { theirs, changed } = editing;
  if (theirs) {
    return (
      <footer className="conflict" role="alert">
        <p>
          <Icons.Warning />{" "}
          <Trans>A colleague saved this in the meantime. What you typed is still here, but not saved.</Trans>
        </p>
        {theirWords ? (
          <p className="theirs" dir="auto">
            <b>
              <Trans>Theirs:</Trans>
            </b>{" "}
            {theirWords(theirs)}
          </p>
        ) : null}
        <Button
          onClick={() => {
            saving.clear();
            editing.undo();
          }}
        >
          <Trans>Use theirs</Trans>
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            saving.clear();
            editing.keepMine();
          }}
        >
          <Trans>Keep mine</Trans>
        </Button>
      </footer>
    );
  }
  return (
    <footer>
      <Wrong words={saving.trouble} />
      {tryOut && changed ? (
        <Link className="as-link" to="/setup/dry-run">
          <Trans>Try it on past chats</Trans>
        </Link>
      ) : null}
      <Button
        disabled={!changed || saving.busy}
        onClick={() => {
          saving.clear();
          editing.undo();
        }}
      >
        <Trans>Undo changes</Trans>
      </Button>
      <Button variant="contained" disabled={!changed || saving.busy} onClick={save}>
        <Trans>Save</Trans>
      </Button>
    </footer>
  );
}
