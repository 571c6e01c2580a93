import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useEffect } from "react";

import type { Suggestion } from "../../shared/types";
import { Icons } from "../icons";

interface Props {
  id: string;
  list: Suggestion[];
  marked: number;
  full: boolean;
  onPick: (suggestion: Suggestion) => void;
}

/** The canned responses that fit. It lies over the script, so that nothing moves when it comes. */
export const SuggestionList = memo(function SuggestionList({ id, list, marked, full, onPick }: Props) {
  useEffect(() => {
    if (marked > 0) document.getElementById(`${id}-${marked}`)?.scrollIntoView({ block: "nearest" });
  }, [id, marked]);
  return (
    <ul
      id={id}
      role="listbox"
      aria-label={t`Canned responses`}
      className={`suggestions ${full ? "full" : ""}`}
      hidden={list.length === 0}
    >
      {list.map((s, i) => (
        <li
          key={s.id}
          id={`${id}-${i}`}
          role="option"
          aria-selected={i === marked}
          onMouseDown={(event) => {
            event.preventDefault(); // the field keeps the focus
            onPick(s);
          }}
        >
          <b>;{s.shortcut}</b>
          <span className="cut" dir="auto">
            {s.text}
          </span>
          {s.missing ? (
            <span className="missing">
              <Icons.Warning /> <Trans>missing: {s.missing.join(", ")}</Trans>
            </span>
          ) : null}
          {s.files && s.files.length > 0 ? <Icons.Clip title={t`With a file`} /> : null}
          <span className="scope">{s.scope === "own" ? "mine" : s.language && full ? s.language : ""}</span>
          {i === marked ? <span className="key">{full ? t`Enter` : t`Tab`}</span> : null}
        </li>
      ))}
    </ul>
  );
});
