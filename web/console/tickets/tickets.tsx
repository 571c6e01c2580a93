import "./tickets.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import type { TicketRow } from "../../shared/types";
import { Icons } from "../icons";
import { useAddress } from "../kit/address";
import { Button } from "../kit/button";
import { usePageTitle } from "../kit/page-title";
import { LoadTrouble } from "../kit/states";
import { InputAdornment, TextField } from "../kit/text-field";
import { useTypedWords } from "../kit/typed-words";
import { VirtualList } from "../kit/virtual-list";
import { Saved } from "../transcripts/saved";
import { Bulk } from "./bulk";
import { Make } from "./make";
import { askedOf, Narrow } from "./narrow";
import { Row } from "./row";
import { TicketPane } from "./ticket";

/** The tickets: which of them, a list with bulk acts, and the one that is open. */
export default function TicketsPage() {
  usePageTitle(t`Tickets`);
  const { number } = useParams();
  const navigate = useNavigate();
  const [address, change] = useAddress();
  const words = address.get("words") ?? "";
  const [typed, setTyped] = useTypedWords(words, (text) => change({ words: text }), 200);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [making, setMaking] = useState(false);
  const asked = { ...askedOf(address), words };
  const found = useInfiniteQuery({
    queryKey: ["tickets", "list", asked],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/tickets", { params: { query: { ...asked, skip: pageParam } } })),
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
  // A ticket that moved while pages were read may stand on two of them.
  const list = [
    ...new Map((found.data?.pages ?? []).flatMap((p) => p.tickets).map((r) => [r.id, r])).values(),
  ];
  const total = found.data?.pages[0]?.total ?? 0;
  const picked = list.filter((r) => chosen.has(r.id));
  const choose = (row: TicketRow, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(row.id);
    else next.delete(row.id);
    setChosen(next);
  };
  const more = () => {
    if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage();
  };
  const search = address.toString();
  return (
    <main className={number ? "tickets one" : "tickets"}>
      <header>
        <h1>
          <Trans>Tickets</Trans>
        </h1>
        <TextField
          size="small"
          type="search"
          value={typed}
          placeholder={t`Number, words, contact, order`}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Escape") setTyped("");
          }}
          slotProps={{
            htmlInput: { "aria-label": t`Search the tickets`, maxLength: 200 },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Icons.Search />
                </InputAdornment>
              ),
            },
          }}
        />
        <Saved address={address} place="tickets" />
        <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => setMaking(true)}>
          <Trans>New ticket</Trans>
        </Button>
      </header>
      <Narrow address={address} change={change} />
      <section className="found" aria-label={t`Tickets found`}>
        <p className="total" role="status">
          {found.isPending ? t`Searching` : plural(total, { one: "# ticket", other: "# tickets" })}
        </p>
        {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
        <div className="scroll">
          <VirtualList
            label={t`Tickets found`}
            items={list}
            keyOf={(r) => r.id}
            height={70}
            onEnd={more}
            draw={(r) => (
              <Row row={r} search={search} chosen={chosen.has(r.id)} choose={(on) => choose(r, on)} />
            )}
          />
          {found.isSuccess && list.length === 0 ? (
            <p className="nothing">
              {search
                ? t`No ticket matches. Try fewer words or filters.`
                : t`Nothing to do. Make a ticket from a chat, under More, when something is left to do after it.`}
            </p>
          ) : null}
        </div>
        {picked.length > 0 ? <Bulk picked={picked} done={() => setChosen(new Set())} /> : null}
      </section>
      {number ? (
        <TicketPane key={number} number={Number(number)} />
      ) : (
        <section className="ticket none">
          <p>{list.length > 0 ? t`Choose a ticket on the left.` : ""}</p>
        </section>
      )}
      {making ? (
        <Make
          onClose={() => setMaking(false)}
          onMade={(made) => void navigate({ pathname: `/tickets/${made.number}`, search })}
        />
      ) : null}
    </main>
  );
}
