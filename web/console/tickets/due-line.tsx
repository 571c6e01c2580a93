import "./due-line.css";

import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { Due } from "./due";
import { PhoneIcon } from "./phone-icon";

// What becomes due by time alone is seen then, in milliseconds.
const lookEvery = 60_000;

/** The tickets that are due for me before the day ends, in the line. */
export default function TicketsDue() {
  const due = useQuery({
    queryKey: ["tickets", "due"],
    queryFn: () => ask(api.GET("/api/tickets/due")),
    refetchInterval: lookEvery,
  });
  const { tickets = [], total = 0 } = due.data ?? {};
  if (tickets.length === 0) return null;
  return (
    <section aria-labelledby="due-head" className="tickets-due">
      <header>
        <h2 id="due-head">
          <Trans>Tickets due</Trans>
        </h2>
        <span className="count">{total}</span>
        {total > tickets.length ? (
          <Link to="/tickets?due=today">
            <Trans>All</Trans>
          </Link>
        ) : null}
      </header>
      <ul aria-labelledby="due-head">
        {tickets.map((r) => (
          <li key={r.id}>
            <Link to={`/tickets/${r.number}`}>
              <span className="row">
                <b className="cut">
                  {r.call ? <PhoneIcon /> : null} <bdi>{r.title}</bdi>
                </b>
                <span className="number">{r.number}</span>
              </span>
              <span className="row meta">
                <Due at={r.dueAt} />
                <bdi className="cut">{r.name || r.email || r.departmentName}</bdi>
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
