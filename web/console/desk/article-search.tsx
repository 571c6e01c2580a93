import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor } from "../../shared/problem";
import { Above } from "../kit/above";
import { Button } from "../kit/button";
import { Cards } from "./card-search";
import { Pages } from "./page-search";
import { TicketSearch } from "./ticket-search";

type Tab = "articles" | "cards" | "pages" | "tickets";

const searches: Record<Tab, { hint: string; label: string }> = {
  articles: { hint: t`Search articles`, label: t`Search articles` },
  cards: { hint: t`Port, day, ship, discount or booking number`, label: t`Search the booking system` },
  pages: { hint: t`Search saved pages`, label: t`Search saved pages` },
  tickets: { hint: t`Number, words, contact, order`, label: t`Search the tickets` },
};

interface Props {
  at: HTMLElement;
  chatId: string;
  onClose: () => void;
  onPut: (words: string) => void;
}

/** Finds from the composer what others wrote or sell: articles to put in, cards of the booking system to send. */
export default function ArticleSearch({ at, chatId, onClose, onPut }: Props) {
  return (
    <Above at={at} onClose={onClose}>
      <Search chatId={chatId} onPut={onPut} onSent={onClose} />
    </Above>
  );
}

function Search({ chatId, onPut, onSent }: Pick<Props, "chatId" | "onPut"> & { onSent: () => void }) {
  const [typed, setTyped] = useState("");
  const [words, setWords] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setWords(typed.trim()), 150);
    return () => clearTimeout(timer);
  }, [typed]);
  const found = useQuery({
    queryKey: ["articles", words],
    queryFn: () => ask(api.GET("/api/articles", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  const cards = useQuery({
    queryKey: ["cards", words],
    queryFn: () => ask(api.GET("/api/cards", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  const connected = !(
    cards.error instanceof ProblemError && cards.error.problem.code === "no-outside-system"
  );
  const [tab, setTab] = useState<Tab>("articles");
  const selling = tab === "cards";
  const showing = tab === "pages";
  const [trouble, setTrouble] = useState("");
  const putText = (id: string) => {
    ask(api.GET("/api/articles/{id}", { params: { path: { id } } })).then(
      (article) => onPut(plain(article.html ?? "")),
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  return (
    <div className="article-search finder">
      <div className="tabs" role="tablist">
        <button role="tab" aria-selected={tab === "articles"} onClick={() => setTab("articles")}>
          <Trans>Articles</Trans>
        </button>
        {connected ? (
          <button role="tab" aria-selected={selling} onClick={() => setTab("cards")}>
            <Trans>Booking system</Trans>
          </button>
        ) : null}
        <button role="tab" aria-selected={showing} onClick={() => setTab("pages")}>
          <Trans>Show a page</Trans>
        </button>
        <button role="tab" aria-selected={tab === "tickets"} onClick={() => setTab("tickets")}>
          <Trans>Tickets</Trans>
        </button>
      </div>
      <input
        autoFocus
        type="search"
        value={typed}
        placeholder={searches[tab].hint}
        aria-label={searches[tab].label}
        maxLength={200}
        onChange={(e) => setTyped(e.target.value)}
      />
      {selling ? (
        <Cards
          chatId={chatId}
          cards={cards.data}
          trouble={cards.isError ? wordsFor(cards.error) : ""}
          onSent={onSent}
        />
      ) : tab === "tickets" ? (
        <TicketSearch chatId={chatId} words={words} onLinked={onSent} />
      ) : showing ? (
        <Pages chatId={chatId} words={words} onOffered={onSent} />
      ) : (
        <ul aria-label={t`Articles`}>
          {(found.data ?? []).slice(0, 30).map((a) => (
            <li key={a.id}>
              <b>{a.title}</b>
              {a.excerpt ? <span className="excerpt">{a.excerpt}</span> : null}
              <span className="acts">
                {a.url ? (
                  <Button onClick={() => onPut(`${a.title}: ${a.url ?? ""}`)}>
                    <Trans>Link</Trans>
                  </Button>
                ) : null}
                <Button onClick={() => putText(a.id ?? "")}>
                  <Trans>Text</Trans>
                </Button>
                {a.url ? null : (
                  <span className="meta">
                    <Trans>team only</Trans>
                  </span>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {tab === "articles" && (trouble || found.isError) ? (
        <p className="wrong" role="alert">
          {trouble || wordsFor(found.error)}
        </p>
      ) : null}
      {tab === "articles" && found.data?.length === 0 ? (
        <p className="nothing">
          <Trans>No matches.</Trans>
        </p>
      ) : null}
    </div>
  );
}

/** Returns the words of an article as plain text, for a chat that shows no markup. */
export function plain(html: string): string {
  const page = new DOMParser().parseFromString(html, "text/html");
  for (const item of page.querySelectorAll("li")) item.prepend("- ");
  for (const cell of page.querySelectorAll("td + td, th + th")) cell.prepend(": ");
  for (const block of page.querySelectorAll("p, li, tr, h1, h2, h3, h4, pre")) block.append("\n");
  return (page.body.textContent ?? "").replace(/[ \t]*\n\s*\n\s*/g, "\n").trim();
}
