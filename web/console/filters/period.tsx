import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { dayShort } from "../../shared/days";
import { LaterIcons } from "../icons-later";
import { Button } from "../kit/button";
import { DateField } from "../kit/date-field";
import { Menu, MenuItem } from "../kit/menu";
import { presets, shift } from "./periods";
import { useToday } from "./today";

interface Props {
  from: string;
  to: string;
  change: (days: { from: string; to: string }) => void;
  /** Whether there may be no period: then all chats are meant. */
  optional?: boolean;
}

/** A period of whole days: by name, or from one day to another. */
export function Period({ from, to, change, optional = false }: Props) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const today = useToday();
  const named = presets().find((p) => {
    const [first, last] = p.days(today);
    return first === from && last === to;
  });
  const words = named?.name ?? periodWords(from, to);
  const days = from && to ? (Date.parse(to) - Date.parse(from)) / 86_400_000 + 1 : 0;
  const move = (by: number) => change({ from: shift(from, by * days), to: shift(to, by * days) });
  return (
    <span className="period">
      {from && to ? (
        <Button
          variant="outlined"
          aria-label={t`The period before`}
          className="step"
          onClick={() => move(-1)}
        >
          ‹
        </Button>
      ) : null}
      <Button
        variant="outlined"
        startIcon={<LaterIcons.Calendar />}
        aria-haspopup="dialog"
        aria-label={t`Period: ${words}`}
        onClick={(event) => setAt(event.currentTarget)}
      >
        {words}
      </Button>
      {from && to ? (
        <Button
          variant="outlined"
          aria-label={t`The period after`}
          className="step"
          disabled={to >= today}
          onClick={() => move(1)}
        >
          ›
        </Button>
      ) : null}
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {optional ? (
          <MenuItem
            selected={!from && !to}
            onClick={() => {
              change({ from: "", to: "" });
              setAt(null);
            }}
          >
            <Trans>Any time</Trans>
          </MenuItem>
        ) : null}
        {presets().map((p) => (
          <MenuItem
            key={p.id}
            selected={p === named}
            onClick={() => {
              const [first, last] = p.days(today);
              change({ from: first, to: last });
              setAt(null);
            }}
          >
            {p.name}
          </MenuItem>
        ))}
        <li className="own-period" onKeyDown={(event) => event.stopPropagation()}>
          <DateField
            label={t`First day`}
            value={from}
            change={(day) => change({ from: day, to: to && day > to ? day : to })}
          />
          <Trans>to</Trans>
          <DateField
            label={t`Last day`}
            value={to}
            change={(day) => change({ from: from && day < from ? day : from, to: day })}
          />
        </li>
      </Menu>
    </span>
  );
}

/** Names a period by its days. */
export function periodWords(from: string, to: string): string {
  if (from && from === to) return dayShort(from);
  if (from && to) {
    const first = dayShort(from);
    const last = dayShort(to);
    return t`${first} to ${last}`;
  }
  if (from) {
    const day = dayShort(from);
    return t`since ${day}`;
  }
  if (to) {
    const day = dayShort(to);
    return t`until ${day}`;
  }
  return t`Any time`;
}
