import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { Button } from "../kit/button";
import { Due } from "./due";
import { Make } from "./make";
import { statusWords } from "./words";

// More are found on their page.
const shown = 8;

/** The tickets of the person in a chat, and a way to make one. */
export function TicketsOfChat({ chatId }: { chatId: string }) {
  const [making, setMaking] = useState(false);
  const found = useQuery({
    queryKey: ["tickets", "like", chatId],
    queryFn: () =>
      ask(api.GET("/api/tickets", { params: { query: { like: chatId, status: "all", order: "updated" } } })),
  });
  const list = found.data?.tickets.slice(0, shown) ?? [];
  return (
    <>
      {found.isSuccess && list.length === 0 ? (
        <p className="nothing">
          <Trans>None.</Trans>
        </p>
      ) : null}
      <ul className="earlier">
        {list.map((r) => (
          <li key={r.id}>
            <Link to={`/tickets/${r.number}`}>
              {r.number}: <bdi>{r.title}</bdi>
            </Link>
            <span className="meta">
              {statusWords(r.status)}
              {r.dueAt ? " · " : ""}
              <Due at={r.dueAt} />
            </span>
          </li>
        ))}
      </ul>
      <Button onClick={() => setMaking(true)} aria-label={t`Make a ticket from this chat`}>
        <Trans>Make a ticket</Trans>
      </Button>
      {making ? <Make chatId={chatId} onClose={() => setMaking(false)} /> : null}
    </>
  );
}
