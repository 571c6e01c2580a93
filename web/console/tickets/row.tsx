import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { NavLink } from "react-router";

import type { TicketRow } from "../../shared/types";
import { Icons } from "../icons";
import { PhoneIcon } from "./phone-icon";
import { Due } from "./due";
import { priorityWords, statusWords } from "./words";

interface Props {
  row: TicketRow;
  search: string;
  chosen: boolean;
  choose: (on: boolean) => void;
}

/** A ticket in the list, with a box by which several are chosen. */
export function Row({ row, search, chosen, choose }: Props) {
  return (
    <div className={chosen ? "ticket-row chosen" : "ticket-row"}>
      <label className="box">
        <input
          type="checkbox"
          checked={chosen}
          onChange={(e) => choose(e.target.checked)}
          aria-label={t`Choose ticket ${row.number}`}
        />
      </label>
      <NavLink to={{ pathname: `/tickets/${row.number}`, search }}>
        <span className="row">
          <b className="cut">
            <bdi>{row.title}</bdi>
          </b>
          <span className="number">{row.number}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            <bdi>{row.name || row.email || t`No customer`}</bdi> · {row.departmentName}
          </span>
          <span className="owner cut">
            {row.ownerName ? <bdi>{row.ownerName}</bdi> : <Trans>nobody’s</Trans>}
          </span>
        </span>
        <span className="row meta">
          <span className="cut">
            {row.call && row.status !== "done" ? (
              <>
                <PhoneIcon /> <Trans>Call back</Trans>
              </>
            ) : (
              <>
                <StatusMark status={row.status} /> {statusWords(row.status)}
              </>
            )}
            {row.priority === "high" || row.priority === "urgent" ? (
              <b className="pressing"> · {priorityWords(row.priority)}</b>
            ) : null}
          </span>
          <Due at={row.dueAt} />
        </span>
      </NavLink>
    </div>
  );
}

/** The shape of a status, beside its word. */
export function StatusMark({ status }: { status: TicketRow["status"] }) {
  if (status === "done") return <Icons.Check />;
  if (status === "customer") return <Icons.Hourglass />;
  return status === "us" ? <Icons.Letter /> : <Icons.Dot />;
}
