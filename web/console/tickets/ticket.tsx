import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { TicketPart, TicketView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { LoadTrouble } from "../kit/states";
import { Answer } from "./answer";
import { CallBand } from "./call-band";
import { ChatBeside } from "./chat-beside";
import { Facts } from "./facts";
import { MergeOne } from "./merge";
import { useTicketMoved } from "./moved";
import { TicketScript } from "./script";
import { Title } from "./title";

/** One ticket: what was said in it, where one answers, and what stands on it. */
export function TicketPane({ number }: { number: number }) {
  const found = useQuery({
    queryKey: ["ticket", number],
    queryFn: () => ask(api.GET("/api/tickets/number/{number}", { params: { path: { number } } })),
  });
  if (found.isError) {
    return (
      <section className="ticket none">
        <LoadTrouble error={found.error} again={() => void found.refetch()} />
      </section>
    );
  }
  if (!found.data) return <section className="ticket" aria-busy="true" />;
  return <Shown ticket={found.data} />;
}

function Shown({ ticket }: { ticket: TicketView }) {
  const navigate = useNavigate();
  const moved = useTicketMoved();
  const [merging, setMerging] = useState(false);
  const [reading, setReading] = useState<string>();
  const params = { path: { id: ticket.id } };
  /** Changes what stands on it; what could not be changed stands as it did. */
  const set = async (body: TicketPart) => {
    try {
      moved(await ask(api.PATCH("/api/tickets/{id}", { params, body })));
      return true;
    } catch (error) {
      sayTrouble(error);
      return false;
    }
  };
  const over = ticket.mergedInto !== undefined;
  return (
    <section className="ticket" aria-label={t`Ticket ${ticket.number}`}>
      <header>
        <Link to={{ pathname: "/tickets", search: location.search }} className="to-list">
          <Trans>All tickets</Trans>
        </Link>
        <span className="number">{ticket.number}</span>
        <Title title={ticket.title} fixed={over} change={(title) => set({ title })} />
        {over ? null : (
          <>
            <Button startIcon={<Icons.Passing />} onClick={() => setMerging(true)}>
              <Trans>Merge</Trans>
            </Button>
            {ticket.status === "done" ? (
              <Button variant="outlined" onClick={() => void set({ status: "us" })}>
                <Trans>Open again</Trans>
              </Button>
            ) : (
              <Button
                variant="outlined"
                startIcon={<Icons.Check />}
                onClick={() => void set({ status: "done" })}
              >
                <Trans>Done</Trans>
              </Button>
            )}
          </>
        )}
        <p className="meta">
          <Trans>
            Opened {dayAndTime(ticket.openedAt)} by <bdi>{ticket.openedBy || t`the customer`}</bdi>
          </Trans>
        </p>
      </header>
      {ticket.mergedInto ? (
        <p className="conflict" role="status">
          <Icons.Passing />{" "}
          <Trans>
            It goes on in ticket{" "}
            <Link to={`/tickets/${ticket.mergedInto.number}`}>{ticket.mergedInto.number}</Link>.
          </Trans>
        </p>
      ) : null}
      <CallBand key={`call-${ticket.id}`} ticket={ticket} />
      <div className="ticket-body">
        <div className="ticket-talk">
          {reading ? (
            <ChatBeside ticketId={ticket.id} chatId={reading} close={() => setReading(undefined)} />
          ) : (
            <TicketScript ticket={ticket} />
          )}
          {over || reading ? null : <Answer key={ticket.id} ticket={ticket} />}
        </div>
        <Facts ticket={ticket} fixed={over} set={set} reading={reading} read={setReading} />
      </div>
      {merging ? (
        <MergeOne
          from={ticket}
          close={() => setMerging(false)}
          merged={(into) => void navigate({ pathname: `/tickets/${into.number}`, search: location.search })}
        />
      ) : null}
    </section>
  );
}
