import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type ReactNode } from "react";
import { Button } from "../kit/button";

interface Props<T> {
  list: readonly T[];
  keyOf: (one: T) => string;
  /** Where each stands; without it the list is shown in its own order. */
  folderOf?: ((one: T) => string) | undefined;
  /** What one of them looks like, inside a list item. */
  children: (one: T) => ReactNode;
  /** What is said when there is none. */
  none: ReactNode;
}

// A library of ten thousand would take seconds to draw, and nobody reads so far.
const atOnce = 200;

/** What the Library has, folder by folder; a long list comes in parts. */
export function ByFolder<T>({ list, keyOf, folderOf, children, none }: Props<T>) {
  const [drawn, setDrawn] = useState(atOnce);
  const sorted = folderOf
    ? [...list].sort((a, b) => folderOf(a).localeCompare(folderOf(b))) // a stable sort
    : list;
  const shown = sorted.slice(0, drawn);
  const folders = folderOf ? [...new Set(shown.map(folderOf))] : [""];
  return (
    <div className="by-folder">
      {folders.map((folder) => (
        <section key={folder} aria-label={folderOf ? folder || t`No folder` : t`Found`}>
          {folderOf ? <h3>{folder || t`No folder`}</h3> : null}
          <ul>
            {shown
              .filter((one) => !folderOf || folderOf(one) === folder)
              .map((one) => (
                <li key={keyOf(one)}>{children(one)}</li>
              ))}
          </ul>
        </section>
      ))}
      {list.length > drawn ? (
        <Button onClick={() => setDrawn(drawn + atOnce)}>
          <Trans>Show {list.length - drawn} more</Trans>
        </Button>
      ) : null}
      {list.length === 0 ? <p className="nothing">{none}</p> : null}
    </div>
  );
}
