import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Fragment } from "react";
import { Link } from "react-router";

import { dayAndTime, dayOf, sameDay, timeOfDay } from "../../shared/format";
import { usePinned } from "../../shared/pinned";
import type { TicketEvent, TicketView } from "../../shared/types";
import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { pieces } from "../../shared/words";
import { priorityWords, statusWords } from "./words";

/** What happened in a ticket, as a script like that of a chat. */
export function TicketScript({ ticket }: { ticket: TicketView }) {
  const { events } = ticket;
  const { box, onScroll } = usePinned(String(events.length), true);
  return (
    <div className="script-box">
      <div
        className="script"
        role="log"
        tabIndex={0}
        ref={box}
        onScroll={onScroll}
        aria-label={t`What was said in ticket ${ticket.number}`}
      >
        {events.map((e, i) => (
          <Fragment key={e.key}>
            {i === 0 || !sameDay(events[i - 1]?.at ?? e.at, e.at) ? (
              <p className="day">
                <time dateTime={e.at}>{dayOf(e.at)}</time>
              </p>
            ) : null}
            <Entry e={e} />
          </Fragment>
        ))}
      </div>
    </div>
  );
}

function Entry({ e }: { e: TicketEvent }) {
  const me = useMe();
  if (e.kind !== "said" && e.kind !== "noted") {
    const words = happened(e, e.by === me.id);
    return words ? (
      <p className="event">
        <Icons.Info />
        <span>
          {words}
          {e.other ? (
            <>
              {" "}
              <Link to={`/tickets/${e.other.number}`}>{e.other.number}</Link>
            </>
          ) : null}{" "}
          <time dateTime={e.at}>{timeOfDay(e.at)}</time>
          {e.text ? (
            <span className="call-words" dir="auto">
              {e.text}
            </span>
          ) : null}
        </span>
      </p>
    ) : null;
  }
  const note = e.kind === "noted";
  const who = e.by === me.id ? t`You` : e.name || t`Customer`;
  return (
    <div className={note ? "say team note" : `say ${e.side}`}>
      <div className="who">
        <b>{who}</b>
        <time dateTime={e.at}>{timeOfDay(e.at)}</time>
      </div>
      <div className="words">
        {note ? (
          <span className="to-team">
            <Icons.Note /> <Trans>Note, only the team sees it</Trans>
          </span>
        ) : null}
        <p dir="auto">
          {pieces(e.text ?? "").map((p, i) =>
            p.href ? (
              <a key={i} href={p.href} target="_blank" rel="noopener noreferrer">
                {p.text}
              </a>
            ) : (
              p.text
            ),
          )}
        </p>
        <span className="mark">
          {[came(e), e.of ? t`in ticket ${e.of}` : ""].filter(Boolean).join(" · ")}
        </span>
      </div>
    </div>
  );
}

/** How words came or went. */
function came(e: TicketEvent): string {
  if (e.from) return t`by email from another address: ${e.from}`;
  if (e.via === "mail") return t`by email`;
  return e.via === "panel" ? t`in the chat window` : "";
}

/** What happened, in a line. */
function happened(e: TicketEvent, mine: boolean): string {
  const who = mine ? t`You` : e.name || t`Customer`;
  switch (e.kind) {
    case "opened":
      return t`${who} made the ticket`;
    case "called":
      if (e.reached) return t`${who} called and reached the customer`;
      return t`${who} called and reached nobody; again ${e.again ? dayAndTime(e.again) : ""}`;
    case "called-off":
      return t`${who} wants no call any more`;
    case "linked":
      return t`${who} linked a chat`;
    case "unlinked":
      return t`${who} unlinked a chat`;
    case "merged":
      return t`${who} merged this ticket into`;
    case "absorbed":
      return t`${who} merged another ticket into this one:`;
    default:
      return changed(e, who);
  }
}

function changed(e: TicketEvent, who: string): string {
  const c = e.change;
  if (!c) return "";
  const parts = [
    c.status ? t`status: ${statusWords(c.status)}` : "",
    c.owner === undefined ? "" : t`owner: ${c.owner || t`nobody`}`,
    c.department ? t`department: ${c.department}` : "",
    c.priority ? t`priority: ${priorityWords(c.priority)}` : "",
    c.due ? t`due: ${dayAndTime(c.due)}` : "",
    c.autoDue ? t`due by its priority again` : "",
    c.title === undefined ? "" : t`title: ${c.title}`,
    c.tags ? t`tags: ${c.tags.join(", ") || t`none`}` : "",
    c.name === undefined ? "" : t`customer: ${c.name || t`none`}`,
    c.email === undefined ? "" : t`email: ${c.email || t`none`}`,
    ...(c.fields ?? []).map((f) => `${f.label}: ${f.value || t`none`}`),
  ].filter(Boolean);
  return t`${who} changed ${parts.join(", ")}`;
}
