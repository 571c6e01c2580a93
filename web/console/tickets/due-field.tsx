import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { toldZone } from "../../shared/format";
import { MomentField } from "../forms/moment-field";
import { momentIn, wallIn } from "../forms/wall-time";
import type { TicketPart, TicketView } from "../../shared/types";
import { Button } from "../kit/button";

interface Props {
  ticket: TicketView;
  set: (part: TicketPart) => Promise<boolean>;
}

/** Chooses when a ticket is due, in the team's time, or leaves that to its priority again. */
export function DueField({ ticket, set }: Props) {
  const zone = toldZone();
  const [typed, setTyped] = useState<string>();
  const due = typed ? momentIn(typed, zone) : undefined;
  if (typed === undefined) {
    return (
      <span className="acts">
        <Button
          size="small"
          onClick={() => setTyped(wallIn(ticket.dueAt ? Date.parse(ticket.dueAt) : Date.now() + day, zone))}
        >
          <Trans>Choose a time</Trans>
        </Button>
        {ticket.chosenDue ? (
          <Button size="small" onClick={() => void set({ autoDue: true })}>
            <Trans>By priority</Trans>
          </Button>
        ) : null}
      </span>
    );
  }
  return (
    <span className="acts">
      <MomentField bare label={t`Due, in the time of ${zone}`} value={typed} change={setTyped} />
      <Button
        size="small"
        variant="outlined"
        disabled={due === undefined}
        onClick={() => {
          if (due === undefined) return;
          void set({ due: new Date(due).toISOString() }).then((well) => {
            if (well) setTyped(undefined);
          });
        }}
      >
        <Trans>Set</Trans>
      </Button>
      <Button size="small" onClick={() => setTyped(undefined)}>
        <Trans>Cancel</Trans>
      </Button>
    </span>
  );
}

const day = 24 * 3600 * 1000;
